import { z } from 'zod';
import { route } from '../http/route.ts';
import { atMs, digest, done, nothing } from '../vocabulary.ts';

const page = z.object({ before: z.string().nullable(), after: z.string().nullable() });

/** Two artifacts whose pages a runner is to picture. */
const picturesGiven = z.object({
  pictures: z.string(),
  /** Tells this taking from one before, which was given up. */
  fence: z.number(),
  project: z.string(),
  builtAs: z.string().nullable(),
  before: digest,
  after: digest,
  pages: z.array(page),
  /** What pages take for now. */
  now: atMs,
});
export type PicturesGiven = z.output<typeof picturesGiven>;

/** Waits for pages that are to be pictured; null when there are none. For runners that have a browser and share the store. */
export const pictureClaimRoute = route({
  method: 'POST',
  path: '/role/picture-claims',
  summary: 'Waits for pages to be pictured and gives them to a runner',
  access: { in: 'role', role: 'runner' },
  query: nothing,
  body: z.strictObject({ waitMs: z.number().int().min(0).max(30_000) }),
  reply: picturesGiven.nullable(),
});

/** A picture as PNG in base64: two MiB at most. */
const image = z
  .base64()
  .max(Math.ceil((2 << 20) / 3) * 4)
  .refine((text) => text.startsWith('iVBORw0KGgo'), 'is no PNG')
  .nullable();

/** What became of each page, by its place; images of those that look otherwise. */
export const pagesTaken = z
  .array(
    z.strictObject({
      place: z.number().int().min(0).max(1000),
      share: z.number().min(0).max(1).nullable(),
      before: image,
      after: image,
      difference: image,
      /** Why it was not pictured. */
      why: z.string().max(300).nullable(),
    }),
  )
  .max(100);
export type PagesTaken = z.output<typeof pagesTaken>;

export const picturesEndRoute = route({
  method: 'POST',
  path: '/role/pictures/:pictures/ends',
  summary: 'Brings the pictures that a runner has taken, or says why it has none',
  access: { in: 'role', role: 'runner' },
  query: nothing,
  body: z.strictObject({
    fence: z.number().int(),
    why: z.string().max(300).nullable(),
    pages: pagesTaken,
  }),
  reply: done,
});

/** One picture of a page: before, after, or where the two differ. */
export const pictureRoute = route({
  method: 'GET',
  path: '/api/projects/:project/pictures/:pictures/:page/:side',
  summary: 'Shows a picture of a page as it was, as it would be, or of what differs',
  gives: 'image/png',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: z.unknown(),
});

/** How far pictures of two artifacts are. */
export const picturesSeen = z.object({
  /** `none`: nothing that differs can be seen. */
  state: z.enum(['none', 'wanted', 'taking', 'taken', 'failed']),
  /** Names them in the addresses of the images; null where there are none. */
  id: z.string().nullable(),
  why: z.string().nullable(),
  pages: z.array(
    page.extend({
      place: z.number(),
      /** Of the page's pixels, from 0 to 1; null while it is not pictured, and for one that could not be. */
      share: z.number().nullable(),
      sides: z.array(z.enum(['before', 'after', 'difference'])),
      why: z.string().nullable(),
    }),
  ),
});
export type PicturesSeen = z.output<typeof picturesSeen>;
