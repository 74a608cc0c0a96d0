import { holdingByDefault } from '../evidence/inspection-rules.ts';
import type { RefName } from '../refs/ref-name.ts';
import type { Accepting, DeliveryMap, EnvironmentRule, Family, Following } from './delivery-map.ts';

export const refs = (branch: string[] = [], proposedInto: string[] = [], tag: string[] = []) => ({
  branch,
  proposedInto,
  tag,
});
export const every = {
  gives: 'every' as const,
  overtaken: 'finish' as const,
  stops: holdingByDefault,
  may: {},
  admits: 'anyone' as const,
  marks: false,
  pictures: false,
  was: null,
};
export const production: Accepting = {
  ...every,
  name: 'production',
  kind: 'accepts',
  from: 'staging',
};
export const staging: Following = {
  ...every,
  name: 'staging',
  kind: 'follows',
  follows: refs(['main']),
  enters: 'by-itself',
  from: null,
};
export const preview: Family = {
  ...every,
  name: 'preview',
  kind: 'each',
  each: refs(['try/*'], ['main']),
  enters: 'by-itself',
  ends: { closedMs: 1000, untouchedMs: 10_000 },
  atMost: 3,
  outsiders: { build: 'on-word', network: 'out' },
};
export const mapOf = (...environments: EnvironmentRule[]): DeliveryMap => ({
  version: 1,
  name: 'timetable',
  trunk: 'main',
  zone: 'UTC',
  environments,
});
export const usual = mapOf(production, staging, preview);
export const branch = (name: string) => `refs/heads/${name}` as RefName;
