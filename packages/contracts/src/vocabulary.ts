import {
  buildStates,
  type CommitId,
  controlFault,
  type Digest,
  deployKinds,
  type Instant,
  isId,
  projectRoles,
  readCommitId,
  readDigest,
  readInstant,
  roles,
} from '@vaquero/core';
import { z } from 'zod';

/** An instant as machines tell it to each other: milliseconds since 1970 UTC. */
export const atMs = z
  .number()
  .refine(
    (value): value is Instant => readInstant(value) !== undefined,
    'must be milliseconds since 1970',
  );
/** An instant as strangers read it, such as `2026-11-28T17:55:00.000Z`. Source: RFC 3339. */
export const at = z.codec(z.iso.datetime({ offset: true }), atMs, {
  decode: (text) => Date.parse(text) as Instant,
  encode: (instant) => new Date(instant).toISOString(),
});
/** One run of a runner or an edge, as it names itself. */
export const instance = z.string().refine(isId, 'is no id');
/** A SHA-256 digest, 64 hexadecimal digits. */
export const digest = z
  .string()
  .refine(
    (text): text is Digest => readDigest(text) !== undefined,
    'must be 64 hexadecimal digits',
  );
/** Who of this installation an author is, by a mail address that they have shown to be theirs; null where nobody is known by it. */
export const authorIs = z.object({ name: z.string(), shownAs: z.string() }).nullable();
/** A commit id, 40 or 64 hexadecimal digits. */
export const commitId = z
  .string()
  .refine(
    (text): text is CommitId => readCommitId(text) !== undefined,
    'must be a whole commit id',
  );
/** A commit at the head of something. Its author stands there as Git has it: whatever the author's machine was told. */
export const headCommit = z.object({
  commit: commitId,
  subject: z.string(),
  author: z.string(),
  authorIs,
  at,
});
/** A commit of a list. */
export const listedCommit = z.object({
  id: commitId,
  subject: z.string(),
  author: z.string(),
  authorIs,
});
export const buildState = z.enum(buildStates);
export const deployKind = z.enum(deployKinds);
export const role = z.enum(roles);
export const projectRole = z.enum(projectRoles);
/** A person's or a thing's name, free text of one line. */
export const line = z
  .string()
  .trim()
  .min(1)
  .max(200)
  .superRefine((text, context) => {
    const message = controlFault(text, 'line');
    if (message !== null) context.addIssue({ code: 'custom', message });
  });
/** A sentence that a person wrote. */
export const reason = z.string().trim().max(500);
/** Nothing: the body of a call that sends none, or its query. */
export const nothing = z.undefined().optional();
/** A reply without content. */
export const done = z.null();
/** A page number or count in a query string. */
export const count = z.coerce.number().int().positive();
/** A list comes in pages: so many at a time, unless it is said otherwise. */
export const usualPage = 50;
export const pageSize = count.max(200).default(usualPage);

/** The query of the page behind one that was read; null behind the last. */
export function nextPage<One>(
  page: readonly One[],
  more: boolean,
  cursorOf: (one: One) => number,
): { before: number; limit: number } | null {
  const last = page.at(-1);
  return more && last !== undefined ? { before: cursorOf(last), limit: page.length } : null;
}

/** The same for a list whose cursor is a name. */
export function pageAfter<One>(
  page: readonly One[],
  more: boolean,
  nameOf: (one: One) => string,
): { after: string; limit: number } | null {
  const last = page.at(-1);
  return more && last !== undefined ? { after: nameOf(last), limit: page.length } : null;
}
