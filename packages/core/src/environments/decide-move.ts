import { allow, type Decision, refuse } from '../decision.ts';
import type { Digest } from '../digest.ts';
import type { Instant } from '../instant.ts';
import type { Entrance } from '../map/delivery-map.ts';
import type { LedgerEntry } from '../releases/ledger.ts';
import { undoneNumbers } from '../releases/ledger.ts';

/** A stop on an environment, with who set it and why. */
export interface Hold {
  readonly by: string;
  readonly since: Instant;
  readonly reason: string;
}

/** What an environment serves now, and who put it there. */
export interface Served {
  readonly deploy: number;
  readonly artifact: Digest;
  readonly build: number;
  readonly intake: number;
  readonly by: string;
  readonly at: Instant;
}

/** An environment as far as moves look at it. The generation rises with every change to it. */
export interface EnvironmentNow {
  readonly name: string;
  readonly generation: number;
  readonly serves: Served | null;
  readonly hold: Hold | null;
}

/** What a person had before their eyes when they decided to move an environment. */
export interface Seen {
  readonly generation: number;
  readonly artifact: Digest | null;
}

/**
 * Decides an automatic deploy: only from a lower intake to a higher one. A deploy by hand takes the
 * newest intake as its own, so nothing that was noticed before it can move the environment after it.
 * Refuses: environment-held, overtaken.
 */
export function decideAutomaticDeploy(
  environment: EnvironmentNow,
  intake: number,
): Decision<{ readonly replaces: number | null }> {
  if (environment.hold !== null) return held(environment, environment.hold);
  const served = environment.serves?.intake ?? 0;
  if (intake <= served) {
    return refuse({ code: 'overtaken', environment: environment.name, intake, served });
  }
  return allow({ replaces: environment.serves?.deploy ?? null });
}

/** What becomes of a build that has passed where an environment took notice of its commit. */
export type Entry = 'enters' | 'overtaken' | 'offered' | 'awaited';

/**
 * Says what becomes of a build that has passed. Where its artifact must have been served elsewhere first, it is awaited
 * until it was; where somebody's word is asked for, it is offered. What goes live by itself is overtaken by anything newer.
 */
export function decideEntry({
  environment,
  intake,
  isServedFirst,
  enters,
}: {
  readonly environment: EnvironmentNow;
  readonly intake: number;
  /** Whether it was served where the environment accepts from, and is not undone there; true where it accepts anything. */
  readonly isServedFirst: boolean;
  readonly enters: Entrance;
}): Entry {
  const isOlder = intake <= (environment.serves?.intake ?? 0);
  if (enters === 'by-itself' && isOlder) return 'overtaken';
  if (!isServedFirst) return 'awaited';
  return enters === 'on-word' ? 'offered' : 'enters';
}

/** A build that an environment took notice of, as somebody would let it in. */
export interface Offer {
  readonly build: number;
  readonly artifact: Digest | null;
  /** Whether it passed, and neither it nor anything newer was let in. */
  readonly isOffered: boolean;
  /** Its bytes are still there. */
  readonly kept: boolean;
}

/**
 * Decides whether somebody may let in what is offered: the environment still is as they saw it. A word is given for a
 * build by name, so what was noticed before a rollback may be let in after it.
 * Refuses: not-offered, environment-held, environment-moved, artifact-gone. Returns the artifact.
 */
export function decideLetIn(
  environment: EnvironmentNow,
  { artifact, build, isOffered, kept }: Offer,
  seen: Seen,
): Decision<Digest> {
  const { name, generation, hold } = environment;
  if (!isOffered || artifact === null)
    return refuse({ code: 'not-offered', environment: name, build });
  if (hold !== null) return held(environment, hold);
  if (generation !== seen.generation) return moved(environment, seen.artifact);
  return kept ? allow(artifact) : refuse({ code: 'artifact-gone', build });
}

/** An artifact as an environment served it last. */
export interface ServedBefore {
  readonly deploy: number;
  readonly build: number;
  /** A rollback has undone it there. */
  readonly undone: boolean;
  /** Its bytes are still there. */
  readonly kept: boolean;
}

/** What a promotion moves: the artifact that the person saw, and what the source serves now and served of it. */
export interface Promotion {
  readonly target: EnvironmentNow;
  readonly source: EnvironmentNow;
  readonly acceptsFrom: string | null;
  readonly artifact: Digest;
  /** The source's newest deploy of that artifact, if it serves another one now; null where it never had it. */
  readonly before: ServedBefore | null;
  readonly seen: Seen;
}

/**
 * Decides a promotion: the target takes an artifact that its source serves or has served, if the target still is as the
 * person saw it. What is pushed meanwhile keeps nobody from promoting what was looked at; what was undone there stays there.
 * Refuses: accepts-from, environment-held, environment-serves-nothing, environment-moved, undone-there, artifact-gone,
 * already-serves. Returns the source's deploy of it.
 */
export function decidePromotion(promotion: Promotion): Decision<{ readonly deploy: number }> {
  const { target, source, artifact, before, seen } = promotion;
  if (promotion.acceptsFrom !== source.name) {
    return refuse({ code: 'accepts-from', environment: target.name, from: promotion.acceptsFrom });
  }
  if (target.hold !== null) return held(target, target.hold);
  if (source.serves === null) {
    return refuse({ code: 'environment-serves-nothing', environment: source.name });
  }
  if (target.generation !== seen.generation) return moved(target, seen.artifact);
  const serves = source.serves.artifact === artifact;
  if (!serves && before === null) return moved(source, artifact);
  const build = serves ? source.serves.build : (before?.build ?? 0);
  if (!serves && before?.undone === true)
    return refuse({ code: 'undone-there', environment: source.name, build });
  if (!serves && before?.kept === false) return refuse({ code: 'artifact-gone', build });
  if (target.serves?.artifact === artifact) {
    return refuse({ code: 'already-serves', environment: target.name, build });
  }
  return allow({ deploy: serves ? source.serves.deploy : (before?.deploy ?? 0) });
}

/** What a person names to go back to. */
export type RollbackTarget = { readonly deploy: number } | { readonly build: number };

/** What a rollback goes back to, and what it undoes. */
export interface WayBack {
  readonly target: LedgerEntry;
  readonly undoes: { readonly first: number; readonly last: number };
}

/**
 * Finds the way back. Without a wish: the latest kept deploy of another artifact that no rollback has
 * undone. With one: the latest deploy that the wish names, undone or not.
 * `ledger` is the environment's whole ledger, oldest first; with a wish, what the wish names of it is enough.
 * Refuses: environment-serves-nothing, no-way-back, already-serves, artifact-gone.
 */
export function findWayBack(
  environment: EnvironmentNow,
  ledger: readonly LedgerEntry[],
  wish: RollbackTarget | null,
): Decision<WayBack> {
  const { serves } = environment;
  if (serves === null) {
    return refuse({ code: 'environment-serves-nothing', environment: environment.name });
  }
  const undone = undoneNumbers(ledger);
  const target = ledger.findLast((entry) => {
    if (wish !== null)
      return 'deploy' in wish ? entry.number === wish.deploy : entry.build === wish.build;
    return entry.kept && entry.artifact !== serves.artifact && !undone.has(entry.number);
  });
  if (target === undefined)
    return refuse({ code: 'no-way-back', environment: environment.name, asked: wish });
  if (target.artifact === serves.artifact) {
    return refuse({ code: 'already-serves', environment: environment.name, build: serves.build });
  }
  if (!target.kept) return refuse({ code: 'artifact-gone', build: target.build });
  return allow({ target, undoes: { first: target.number + 1, last: serves.deploy } });
}

/** Decides a rollback: allowed while held, refused when the environment is not as the person saw it. */
export function decideRollback(
  environment: EnvironmentNow,
  ledger: readonly LedgerEntry[],
  wish: RollbackTarget | null,
  seen: Seen,
): Decision<WayBack> {
  const serving = environment.serves?.artifact ?? null;
  if (environment.generation !== seen.generation || serving !== seen.artifact) {
    return moved(environment, seen.artifact);
  }
  return findWayBack(environment, ledger, wish);
}

function held(environment: EnvironmentNow, hold: Hold): Decision<never> {
  return refuse({
    code: 'environment-held',
    environment: environment.name,
    by: hold.by,
    since: hold.since,
    reason: hold.reason,
  });
}

function moved(environment: EnvironmentNow, seen: Digest | null): Decision<never> {
  const { serves } = environment;
  return refuse({
    code: 'environment-moved',
    environment: environment.name,
    seen,
    now: serves?.artifact ?? null,
    deploy: serves?.deploy ?? 0,
    by: serves?.by ?? 'nobody yet',
    at: serves?.at ?? 0,
  });
}
