import type { roleRoutes } from '@vaquero/contracts';
import { readArtifactHost } from '@vaquero/core';
import { LRUCache } from 'lru-cache';
import type { z } from 'zod';

export type NamedArtifact = roleRoutes.NamedArtifact;

/** What the api said that an address stands for, and up to which decision it had read. */
export type NameAnswer = z.output<typeof roleRoutes.artifactNameRoute.reply>;

/** What own addresses of artifacts stand for, as far as somebody asked for them. */
export interface ArtifactNames {
  /** What an address stands for, null for nothing; undefined where that is to be asked. */
  readonly known: (host: string, revision: number) => NamedArtifact | null | undefined;
  readonly learn: (host: string, answer: NameAnswer) => void;
}

/** Addresses can be made up without number. */
const mostNames = 10_000;
/** For so long nothing stands at an address: a build that passes meanwhile is found a moment later. */
const nothingForMs = 1_000;

/**
 * Makes the names. What the api said holds until a table comes that is newer than what it had read: any decision may
 * have closed an address. With the api away no table comes, and what is known stays.
 */
export function makeArtifactNames(): ArtifactNames {
  const names = new LRUCache<string, NameAnswer & { readonly at: number }>({ max: mostNames });
  return {
    known: (host, revision) => {
      const found = names.get(host);
      if (found === undefined || found.revision < revision) return undefined;
      const isOld = found.named === null && performance.now() - found.at > nothingForMs;
      return isOld ? undefined : found.named;
    },
    learn: (host, answer) => void names.set(host, { ...answer, at: performance.now() }),
  };
}

/** Whether a host is the own address of some artifact, there or not. */
export function isOfArtifact(host: string, base: string): boolean {
  return base !== '' && readArtifactHost(host, base) !== undefined;
}
