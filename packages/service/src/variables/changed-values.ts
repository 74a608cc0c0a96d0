import type { Digest } from '@vaquero/core';
import type { InstallationKeys } from '../base/installation-keys.ts';
import type { GivenValue } from './given-values.ts';

/** Values as they stand on a build: of each name a digest that only this installation can make. */
export type ValueDigests = Readonly<Record<string, Digest>>;

/** The digests of values, by name. */
export function digestsOf(
  keys: Pick<InstallationKeys, 'keyed'>,
  values: readonly Pick<GivenValue, 'name' | 'value'>[],
): ValueDigests {
  return Object.fromEntries(values.map(({ name, value }) => [name, keys.keyed(value)]));
}

/** The names whose values are others than those of a build, or that only one of both has. Nothing is known of older builds. */
export function changedValues(
  keys: Pick<InstallationKeys, 'keyed'>,
  before: Readonly<Record<string, string>> | null | undefined,
  values: readonly Pick<GivenValue, 'name' | 'value'>[],
): ReadonlySet<string> {
  if (before == null) return new Set();
  const now = digestsOf(keys, values);
  const names = [...Object.keys(before), ...Object.keys(now)];
  return new Set(names.filter((name) => before[name] !== now[name]));
}
