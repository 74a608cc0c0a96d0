import { controlFault } from '../control-characters.ts';
import type { RecipeFault } from '../recipes/check-recipe.ts';
import { readAddress } from './address.ts';
import type { ServingRules } from './serving-rules.ts';
import { fieldFault } from './site-headers.ts';

const longest = 1000;

/**
 * Faults of rules that show without an artifact: what is no address, a `*` in the middle, a field that no site sets.
 * Places count from `serve`.
 */
export function ruleFaults(
  rules: Pick<ServingRules, 'base' | 'moved' | 'instead' | 'headers' | 'immutable'>,
): readonly RecipeFault[] {
  const faults: RecipeFault[] = [];
  const note = (path: readonly (string | number)[], message: string | null): void => {
    if (message !== null) faults.push({ path: ['serve', ...path], message });
  };
  const below = (address: string): string | null =>
    `${address.replace(/\*$/, '')}/`.startsWith(rules.base)
      ? null
      : `lies outside ${rules.base}, for which the site is built`;
  note(['base'], baseFault(rules.base));
  for (const { from, to } of rules.moved) {
    note(
      ['moved', from],
      patternFault(from) ?? (to.length > longest ? tooLong : targetFault(from, to)),
    );
  }
  for (const { at, page } of rules.instead)
    note(
      ['instead', at],
      patternFault(at) ??
        below(at) ??
        addressFault(page) ??
        (page.includes('*') ? 'names one page' : below(page)),
    );
  for (const { at, fields } of rules.headers) {
    note(['headers', at], globFault(at));
    for (const [name, value] of Object.entries(fields))
      note(['headers', at, name], fieldFault(name, value));
  }
  for (const [place, pattern] of rules.immutable.entries())
    note(['immutable', place], globFault(pattern));
  return faults;
}

const tooLong = `is over ${longest} characters`;

function baseFault(base: string): string | null {
  if (!base.startsWith('/') || !base.endsWith('/') || base.includes('//'))
    return 'must be a folder of the host that begins and ends with /, such as /handbook/';
  return readAddress(base) === base && !/[?#*\\]/.test(base)
    ? addressFault(base)
    : 'is written without %, ?, # and *';
}

function addressFault(address: string): string | null {
  if (!address.startsWith('/') || address.startsWith('//'))
    return 'must be an address of the host that begins with one /';
  if (address.length > longest) return tooLong;
  if (/[?#]/.test(address)) return 'is a path: what stands behind ? or # is no part of it';
  if (controlFault(address, 'line') !== null || readAddress(address) === null)
    return 'holds a % that stands for nothing';
  return address.split('/').some((part) => part === '.' || part === '..')
    ? 'is written without . and .. in it'
    : null;
}

function patternFault(address: string): string | null {
  const stars = address.split('*').length - 1;
  if (stars > 1 || (stars === 1 && !address.endsWith('/*')))
    return 'takes one *, as its last segment';
  return addressFault(address);
}

function globFault(pattern: string): string | null {
  if (!pattern.startsWith('/')) return 'must begin with /';
  return pattern.length > longest ? tooLong : null;
}

function targetFault(from: string, to: string): string | null {
  const isPath = to.startsWith('/') && !/^\/[/\\]/.test(to);
  if (!isPath && !/^https?:\/\/[^/?#\s]+/.test(to))
    return 'must lead to a path that begins with one /, or to an address such as https://ferry.example/';
  const stars = to.split('*').length - 1;
  if (stars > 0 && !from.endsWith('/*')) return 'has no * for the one of its target';
  if (stars > 1 || (stars === 1 && !to.endsWith('/*')))
    return 'leads to a target with one *, as its last segment';
  const [path = ''] = to.split(/[?#]/, 1);
  if (isPath && readAddress(path) === null)
    return 'leads to a target with a % that stands for nothing';
  return /\s/.test(to) ? 'leads to a target with white space in it' : null;
}
