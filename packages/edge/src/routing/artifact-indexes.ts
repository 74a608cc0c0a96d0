import type { Digest } from '@vaquero/core';
import { type ArtifactIndex, problemWith, readIndex } from './artifact-index.ts';

/** Artifacts of the store, made ready for look-ups. */
export interface ArtifactIndexes {
  /** The index of an artifact, made at its first use. Throws when its manifest is damaged, or of a form not known here. */
  readonly of: (artifact: Digest) => ArtifactIndex;
  /** Makes an artifact ready; returns what keeps it from being served. */
  readonly prepare: (artifact: Digest) => string | null;
  /** Lets go of those that are not served, the oldest first. */
  readonly keep: (served: ReadonlySet<Digest>) => void;
}

/** With so many artifacts a new one is compared: the newest of as many environments. */
const mostCompared = 4;

/** So many indexes are kept of artifacts that no environment serves: somebody looks at them, or will in a moment. */
const mostBeside = 200;

/** Makes the indexes of a store's artifacts. */
export function makeArtifactIndexes(store: string): ArtifactIndexes {
  const indexes = new Map<Digest, ArtifactIndex>();
  /** Artifacts whose every blob was seen to be there: they are named by the table, so none of it is swept. */
  const prepared = new Set<Digest>();
  const of = (artifact: Digest): ArtifactIndex => {
    const known = indexes.get(artifact);
    if (known !== undefined) return known;
    const made = readIndex(store, artifact);
    indexes.set(artifact, made);
    return made;
  };
  return {
    of,
    prepare: (artifact) => {
      if (prepared.has(artifact)) return null;
      try {
        const problem = problemWith(store, of(artifact), newestOf(prepared, indexes));
        if (problem === null) prepared.add(artifact);
        return problem;
      } catch (error) {
        indexes.delete(artifact);
        return error instanceof Error ? error.message : String(error);
      }
    },
    keep: (served) => {
      const beside = [...indexes.keys()].filter((digest) => !served.has(digest));
      for (const digest of beside.slice(0, -mostBeside)) {
        indexes.delete(digest);
        prepared.delete(digest);
      }
    },
  };
}

/** Of the artifacts whose every blob was seen, those that came last. */
function newestOf(
  prepared: ReadonlySet<Digest>,
  indexes: ReadonlyMap<Digest, ArtifactIndex>,
): readonly ArtifactIndex[] {
  return [...prepared].slice(-mostCompared).flatMap((one) => indexes.get(one) ?? []);
}
