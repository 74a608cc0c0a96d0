import { hash, verify } from '@node-rs/argon2';

/** Argon2id (2 in the package's enum). Source: RFC 9106 section 4, second recommended option (64 MiB, 3 passes), with one lane. */
const cost = { algorithm: 2, memoryCost: 65_536, timeCost: 3, parallelism: 1 } as const;

let working = 0;
const queue: (() => void)[] = [];
const atOnce = 2;
const longestQueue = 32;

/** Hashes a password with argon2id. Undefined when too many wait already. */
export function hashPassword(password: string): Promise<string | undefined> {
  return inTurn(() => hash(password, cost));
}

/**
 * Checks a password. Two are hashed or checked at once, the others wait: each takes 64 MiB, and guessing must not
 * be a way to fill the memory. Undefined when too many wait already.
 */
export function checkPassword(storedHash: string, password: string): Promise<boolean | undefined> {
  return inTurn(() => verify(storedHash, password));
}

async function inTurn<Value>(work: () => Promise<Value>): Promise<Value | undefined> {
  if (queue.length >= longestQueue) return undefined;
  if (working >= atOnce) await new Promise<void>((resolve) => queue.push(resolve));
  working += 1;
  try {
    return await work();
  } finally {
    working -= 1;
    queue.shift()?.();
  }
}

/** A hash that no password has, so that an unknown name takes as long as a wrong password. */
export const nobodysHash = await hash(crypto.randomUUID(), cost);
