import type { Making } from './templates.ts';

/** What is seen on the front page of each site once it is live. */
export const landmark = 'Next from Lune Quay';

/** A real project as people have them, and what its first push is to become. */
export interface Kind {
  readonly name: string;
  readonly make: (at: Making) => Promise<void> | void;
  /** The folder of the repository that the project is; its root as a rule. */
  readonly folder?: string;
  /** The folder that is published; `nothing` is built and tried; `choice` is asked for. */
  readonly becomes: { readonly site: string } | 'nothing' | 'choice' | { readonly fails: RegExp };
  /** A further path of the site, and what is seen there. */
  readonly page?: readonly [path: string, says: RegExp];
  /** Packages of Debian without which there is nothing to try. */
  readonly debian?: readonly string[];
}

/** A page that shows it. */
export const page = `<!doctype html><html lang="en"><title>Sailings</title><h1>${landmark}</h1></html>`;
