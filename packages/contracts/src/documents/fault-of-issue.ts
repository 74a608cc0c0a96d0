import type { z } from 'zod';

type Issue = z.core.$ZodIssue;

/** Kinds of values as people who write recipes call them. */
const kinds: Readonly<Record<string, string>> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'a block of keys and values',
  record: 'a block of keys and values',
  null: 'nothing',
  undefined: 'nothing',
};

/** What a fault of a recipe says: our words, whatever found it. */
export function faultOfIssue(issue: Issue): string {
  switch (issue.code) {
    case 'invalid_type':
      return issue.input === undefined && issue.message.endsWith('received undefined')
        ? 'is missing'
        : `must be ${kinds[issue.expected] ?? issue.expected}`;
    case 'invalid_key':
      return issue.issues[0]?.message ?? 'is no name';
    case 'invalid_union':
      return ofUnion(issue);
    case 'invalid_value':
      return `must be ${issue.values.map(String).join(' or ')}`;
    case 'too_small':
      return ofSize(issue.origin, issue.minimum, 'at least');
    case 'too_big':
      return ofSize(issue.origin, issue.maximum, 'at most');
    default:
      // Those that the language itself says, each with its own words.
      return issue.message;
  }
}

function ofSize(origin: string, limit: number | bigint, word: 'at least' | 'at most'): string {
  if (origin === 'string')
    return limit === 1 && word === 'at least'
      ? 'must not be empty'
      : `must have ${word} ${limit} characters`;
  if (origin === 'array' || origin === 'set' || origin === 'object' || origin === 'record')
    return limit === 1 && word === 'at least'
      ? 'must not be empty'
      : `must have ${word} ${limit} entries`;
  return `must be ${word} ${limit}`;
}

/** A value that may be written in several ways fails in all: what the nearest one says is what helps. */
function ofUnion(issue: Extract<Issue, { code: 'invalid_union' }>): string {
  const all = issue.errors.map((each) => each[0]).filter((each) => each !== undefined);
  const own = all.find((each) => each.code !== 'invalid_type' && each.code !== 'invalid_value');
  if (own !== undefined && own.code !== 'unrecognized_keys') return faultOfIssue(own);
  if (all.every((each) => each.message.endsWith('received undefined'))) return 'is missing';
  const ways = all.flatMap((each) => {
    if (each.code === 'invalid_type' && each.path.length === 0)
      return each.expected === 'array'
        ? ['a list of texts']
        : [kinds[each.expected] ?? each.expected];
    return each.code === 'invalid_value' ? [each.values.map(String).join(' or ')] : [];
  });
  return ways.length === 0
    ? 'is written in a way that is not known'
    : `must be ${ways.join(' or ')}`;
}
