import { randomBytes } from 'node:crypto';
import { type Digest, encodeEntry, leafHash } from '@vaquero/core';
import { sha256 } from '../base/sha256.ts';
import type { Decided } from './doing.ts';

/** What an entry tells of a person, apart from it, so that it can go and the entry stay. */
interface Personal {
  readonly position: number;
  readonly field: string;
  readonly salt: string;
  readonly value: string;
}

/** The row of a decision at its position, and what of it tells of a person. */
export function entryOf(decided: Decided, position: number) {
  const { origin, request, actor, through } = decided.doing;
  const personal: Personal[] = [];
  const apart = (field: string, value: string | null): Digest | null => {
    if (value === null) return null;
    const salt = randomBytes(16).toString('hex');
    personal.push({ position, field, salt, value });
    return sha256(`${salt}${value}`);
  };
  const bytes = encodeEntry({
    form: 2,
    position,
    at: decided.at,
    kind: decided.kind,
    project:
      decided.project === null ? null : { id: decided.project.id, name: decided.project.name },
    who: actor,
    through,
    origin: apart('origin', origin),
    request,
    facts: { ...decided.facts },
    before: decided.before ?? null,
    after: decided.after ?? null,
    why: apart('why', decided.why ?? null),
  });
  return {
    entry: {
      position,
      at: decided.at,
      kind: decided.kind,
      projectId: decided.project?.id ?? null,
      bytes,
      leaf: leafHash(bytes, sha256),
    },
    personal,
  };
}
