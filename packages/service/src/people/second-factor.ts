import { randomBytes } from 'node:crypto';
import {
  type Digest,
  isFactorDemanded,
  type Role,
  readFactorCode,
  recoveryWord,
} from '@vaquero/core';
import { generateSecret, generateURI, verify } from 'otplib';
import type { Doing } from '../audit/doing.ts';
import { byPerson, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import { openValue, sealValue } from '../variables/seal.ts';
import type { Caller } from './caller.ts';
import { grantsOf } from './grant-rows.ts';
import { type PersonRow, personByName } from './people-rows.ts';
import {
  deleteFactor,
  factorDemandedFrom,
  factorSince,
  havingFactor,
  lockFactor,
  noteStep,
  putNext,
  putWords,
  setFactorDemanded,
  takeNext,
  useWord,
  wordsLeft,
} from './second-factor-rows.ts';
import { deleteSessionsOf, peopleSignedIn } from './session-rows.ts';

type From = Pick<Doing, 'origin' | 'request'>;

const words = 10;
/** A code of half a minute before or behind is good, too: clocks differ. Source: RFC 6238 section 5.2. */
const toleranceS = 30;

/** What a secret is sealed with beside the key. */
function placeOf(personId: string): string {
  return `second-factor/${personId}`;
}

function wordHash(personId: string, word: string): Digest {
  return sha256(`${personId}\n${word}`);
}

/** What somebody typed as a code, and from where. */
export interface TypedCode {
  readonly code: string | undefined;
  readonly from: From;
}

/**
 * Checks the code of whoever has a second factor; who has none is let through. Each code and each word is good once.
 * Refuses: code-needed, wrong-code.
 */
export async function checkFactor(
  deps: Deps,
  person: Pick<PersonRow, 'id'>,
  typed: TypedCode,
): Promise<void> {
  if ((await factorSince(deps.db, person.id)) === undefined) return;
  await inTransaction(deps.db, (tx) => checkFactorIn(deps, tx, person, typed));
}

/** The same in a transaction, which holds the factor as it was checked until its end. */
async function checkFactorIn(
  deps: Deps,
  tx: Tx,
  person: Pick<PersonRow, 'id'>,
  { code, from }: TypedCode,
): Promise<void> {
  const row = await lockFactor(tx, person.id);
  if (row?.sealed == null) return;
  if (code === undefined || code === '') return refused({ code: 'code-needed' });
  const read = readFactorCode(code);
  if (read === undefined) return refused({ code: 'wrong-code', because: 'wrong' });
  if (read.kind === 'code') {
    const step = await stepOf(deps, person.id, row.sealed, read.text);
    if (step === null) return refused({ code: 'wrong-code', because: 'wrong' });
    if (step <= row.lastStep) return refused({ code: 'wrong-code', because: 'used' });
    await noteStep(tx, person.id, step);
    return;
  }
  const at = deps.clock();
  if (!(await useWord(tx, person.id, wordHash(person.id, read.text), at)))
    return refused({ code: 'wrong-code', because: 'wrong' });
  decide(tx, {
    at,
    kind: 'person.recovery-word-used',
    project: null,
    doing: byPerson(person.id, 'console', from),
    facts: { left: await wordsLeft(tx, person.id) },
  });
}

/** The step of time that a code is of; null where it is of none that is near. */
async function stepOf(
  deps: Deps,
  personId: string,
  sealed: Buffer,
  token: string,
): Promise<number | null> {
  const secret = openValue(deps.keys.sealing, placeOf(personId), sealed);
  const epoch = Math.floor(deps.clock() / 1000);
  const found = await verify({ secret, token, epoch, epochTolerance: toleranceS });
  return found.valid && 'timeStep' in found ? found.timeStep : null;
}

/** From which role on somebody must have a second factor and has none; null where they have one, or need none. */
async function lacksFrom(deps: Deps, person: Pick<PersonRow, 'id'>): Promise<Role | null> {
  const from = await factorDemandedFrom(deps.db);
  if (from === null || (await factorSince(deps.db, person.id)) !== undefined) return null;
  return isFactorDemanded(from, await grantsOf(deps.db, person.id)) ? from : null;
}

/** Whether a sign-in of somebody takes a second factor, as they have one or must have one. */
export async function takesFactor(deps: Deps, person: Pick<PersonRow, 'id'>): Promise<boolean> {
  return (
    (await factorSince(deps.db, person.id)) !== undefined ||
    (await lacksFrom(deps, person)) !== null
  );
}

/** Refuses (factor-demanded) somebody who must have a second factor and has none. */
export async function requireFactor(deps: Deps, person: Pick<PersonRow, 'id'>): Promise<void> {
  const from = await lacksFrom(deps, person);
  if (from !== null) refused({ code: 'factor-demanded', from, has: false });
}

/**
 * Begins a second factor: what its codes are made of, in base 32 and as an address that programs for codes read. A code of
 * the one that holds is checked in the same breath: one that comes to hold meanwhile is not passed by.
 * Refuses: code-needed, wrong-code.
 */
export async function beginFactor(
  deps: Deps,
  person: PersonRow,
  typed: TypedCode,
): Promise<{ readonly secret: string; readonly address: string }> {
  const secret = generateSecret();
  const sealed = sealValue(deps.keys.sealing, placeOf(person.id), secret);
  await inTransaction(deps.db, async (tx) => {
    await checkFactorIn(deps, tx, person, typed);
    await putNext(tx, person.id, sealed);
  });
  const issuer = `Vaquero ${new URL(deps.config.origin).host}`;
  return { secret, address: generateURI({ issuer, label: person.name, secret }) };
}

/**
 * Lets what was begun hold, once a code of it was shown; returns the recovery words, which are kept hashed only.
 * Refuses: no-factor, wrong-code.
 */
export async function confirmFactor(
  deps: Deps,
  person: PersonRow,
  typed: string,
  from: From,
): Promise<readonly string[]> {
  const made = Array.from({ length: words }, () => recoveryWord(randomBytes(12)));
  await inTransaction(deps.db, async (tx) => {
    const row = await lockFactor(tx, person.id);
    if (row?.nextSealed == null) return refused({ code: 'no-factor', person: person.name });
    const read = readFactorCode(typed);
    const step =
      read?.kind === 'code' ? await stepOf(deps, person.id, row.nextSealed, read.text) : null;
    if (step === null) return refused({ code: 'wrong-code', because: 'wrong' });
    await takeNext(tx, row, { since: deps.clock(), step });
    await putWords(
      tx,
      person.id,
      made.map((word) => wordHash(person.id, word)),
    );
    decide(tx, {
      at: deps.clock(),
      kind: 'person.factor-set',
      project: null,
      doing: byPerson(person.id, 'console', from),
      facts: {},
    });
  });
  return made;
}

/** Ends one's own second factor by a code of it. Refuses: no-factor, factor-demanded, code-needed, wrong-code. */
export async function endOwnFactor(deps: Deps, person: PersonRow, typed: TypedCode): Promise<void> {
  const demanded = await factorDemandedFrom(deps.db);
  if (demanded !== null && isFactorDemanded(demanded, await grantsOf(deps.db, person.id)))
    return refused({ code: 'factor-demanded', from: demanded, has: true });
  await inTransaction(deps.db, async (tx) => {
    await checkFactorIn(deps, tx, person, typed);
    await endFactor(deps, tx, person, byPerson(person.id, 'console', typed.from));
  });
}

/** Ends the second factor of somebody who lost it. Refuses: not-found, no-factor. */
export async function endFactorOf(deps: Deps, name: string, caller: Caller): Promise<void> {
  const person = await personByName(deps.db, name);
  if (person === undefined || person.kind !== 'person')
    return refused({ code: 'not-found', what: 'person', name });
  await inTransaction(deps.db, (tx) => endFactor(deps, tx, person, caller.doing));
}

async function endFactor(deps: Deps, tx: Tx, person: PersonRow, doing: Doing): Promise<void> {
  if (!(await deleteFactor(tx, person.id)))
    return refused({ code: 'no-factor', person: person.name });
  decide(tx, {
    at: deps.clock(),
    kind: 'person.factor-ended',
    project: null,
    doing,
    facts: { person: person.id },
  });
}

/**
 * Demands a second factor from a role on, or of nobody (null). Who must have one and has none is signed out; their tokens
 * stay. Returns how many sessions ended. Refuses: factor-first.
 */
export async function demandFactor(deps: Deps, from: Role | null, caller: Caller): Promise<number> {
  return inTransaction(deps.db, async (tx) => {
    if (from !== null && (await factorSince(tx, caller.personId)) === undefined)
      return refused({ code: 'factor-first' });
    await setFactorDemanded(tx, from);
    const signedIn = await peopleSignedIn(tx);
    const having = await havingFactor(tx, signedIn);
    const without: string[] = [];
    for (const id of signedIn.filter((one) => !having.has(one)))
      if (isFactorDemanded(from, await grantsOf(tx, id))) without.push(id);
    const sessionsEnded = await deleteSessionsOf(tx, without);
    decide(tx, {
      at: deps.clock(),
      kind: 'installation.factor-demanded',
      project: null,
      doing: caller.doing,
      facts: { from, sessionsEnded },
    });
    return sessionsEnded;
  });
}
