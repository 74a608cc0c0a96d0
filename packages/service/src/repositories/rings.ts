import type { Doing } from '../audit/doing.ts';
import type { PushedRef } from './side-band.ts';

/** What made somebody look: a push, a poll, a person or a start of the service. */
export interface Ring {
  readonly kind: 'push' | 'poll' | 'person' | 'start';
  readonly doing: Doing | null;
  /** The refs that are said to have moved; all of them are looked at where nobody says. */
  readonly refs?: readonly PushedRef[] | null;
}

/** Rings for looks. */
export interface Doorbell {
  /** Asks for a look. During a look it marks that one to be repeated: one runs, one waits at most. */
  readonly ring: (repositoryId: string, ring: Ring) => void;
  /** Asks for a look and waits until one that began after the call has ended; rejects when that look failed. */
  readonly ringAndWait: (repositoryId: string, ring: Ring) => Promise<void>;
  /** Waits for the looks that run. */
  readonly stop: () => Promise<void>;
}
