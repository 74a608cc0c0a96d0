import type { Manifest } from '@vaquero/core';

/** What the helper behind the walls is told: two artifacts, and the pages to be pictured of them. */
export interface PictureJob {
  /** The moment that pages take for now: what they say of today is the same in both. RFC 3339. */
  readonly now: string;
  readonly before: Manifest;
  readonly after: Manifest;
  readonly pages: readonly { readonly before: string | null; readonly after: string | null }[];
}

/** A picture of more bytes is not told: the page says so. */
export const largestPictureBytes = 2 << 20;

/** Where the helper finds what it needs. */
export const insidePaths = {
  job: '/pictures/job.json',
  /** Files of both artifacts by their digests. */
  files: '/pictures/files',
  helper: '/pictures/helper/picture-helper.mjs',
  driver: '/pictures/helper/node_modules/playwright-core',
} as const;
