import { leastLetters } from '@vaquero/core';

let known: Promise<ReadonlySet<string>> | null = null;

/** Passwords that many people have, in lower case, as far as they are long enough to be chosen here; read when first asked for. */
export function commonPasswords(): Promise<ReadonlySet<string>> {
  known ??= import('@zxcvbn-ts/language-common').then(
    ({ dictionary }) =>
      new Set(
        dictionary['passwords-common']
          .filter((one) => String(one).length >= leastLetters)
          .map((one) => String(one).toLowerCase()),
      ),
  );
  return known;
}
