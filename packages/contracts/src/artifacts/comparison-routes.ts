import { z } from 'zod';
import { findingSeen } from '../evidence/evidence-seen.ts';
import { route } from '../http/route.ts';
import { picturesSeen } from '../pictures/picture-routes.ts';
import { count, digest, nothing } from '../vocabulary.ts';

const side = z.object({
  build: z.number(),
  artifact: digest,
  files: z.number(),
  bytes: z.number(),
});

/** A line of a page, in both or one of the two; one that was reworded says which words. */
const pageLine = z.union([
  z.object({ is: z.enum(['same', 'added', 'removed', 'gap']), text: z.string() }),
  z.object({
    is: z.literal('reworded'),
    parts: z.array(z.object({ is: z.enum(['same', 'added', 'removed']), text: z.string() })),
  }),
]);

const fileHow = z.enum(['added', 'changed', 'removed', 'renamed']);
const testCounts = z.object({ total: z.number(), failed: z.number() });

const comparisonReply = z
  .object({
    before: side,
    after: side,
    /** Files that are the same. */
    same: z.number(),
    counts: z.object({
      added: z.number(),
      changed: z.number(),
      removed: z.number(),
      renamed: z.number(),
    }),
    /** By path, three hundred at most. Sizes in bytes; null where a file is not there. */
    files: z.array(
      z.object({
        path: z.string(),
        how: fileHow,
        from: z.string().nullable(),
        before: z.number().nullable(),
        after: z.number().nullable(),
      }),
    ),
    /** Bytes by type of file, where they differ. */
    types: z.array(z.object({ type: z.string(), before: z.number(), after: z.number() })),
    /** Keys of `serve` that the two say otherwise. */
    answers: z.array(z.string()),
    /** What readers of a page see otherwise, beside what nearly every page has: sixty pages at most, eighty lines of each, a thousand letters of each line. */
    pages: z.array(
      z.object({
        path: z.string(),
        how: fileHow,
        lineCount: z.number(),
        lines: z.array(pageLine),
      }),
    ),
    /** What nearly every changed page says otherwise, and how many of them. */
    everywhere: z.object({ pages: z.number(), lines: z.array(pageLine) }),
    pageCounts: z.object({
      before: z.number(),
      after: z.number(),
      /** Pages whose bytes differ, those that came and went among them. */
      changed: z.number(),
      /** Of those read: pages that say otherwise beside what nearly all do. */
      otherText: z.number(),
      /** Of those read: pages whose text is the same. */
      sameText: z.number(),
      /** Changed pages that were not read or compared: there are too many, or they are too large or too slow. */
      unread: z.number(),
    }),
    /** Pictures of pages, before and after; null where the map does not ask for them. */
    pictures: picturesSeen.nullable(),
    /** Tests that each build ran itself; none where its steps were known from another one. */
    tests: z.object({ before: testCounts, after: testCounts }),
    /** Findings of the inspection that only one of the two has. */
    findings: z.object({ new: z.array(findingSeen), gone: z.array(findingSeen) }),
  })
  .meta({ id: 'Comparison' });
export type ComparisonReply = z.output<typeof comparisonReply>;

export const compareRoute = route({
  method: 'GET',
  path: '/api/projects/:project/comparisons',
  summary:
    'What differs between the artifacts of two builds: files, what pages say, sizes, tests, findings',
  access: { in: 'project', ability: 'read' },
  query: z.strictObject({ before: count, after: count }),
  body: nothing,
  reply: comparisonReply,
});
