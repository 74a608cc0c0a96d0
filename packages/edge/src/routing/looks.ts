import { timingSafeEqual } from 'node:crypto';

/** Tells the service, by its key, from everybody else; whoever guesses sees what everybody sees. */
export function makeLooks() {
  let expected: Buffer | null = null;
  return {
    expect: (key: string): void => {
      expected = Buffer.from(key);
    },
    mayLook: (shown: string | undefined): boolean => {
      const given = Buffer.from(shown ?? '');
      return (
        expected !== null && given.length === expected.length && timingSafeEqual(given, expected)
      );
    },
  };
}
