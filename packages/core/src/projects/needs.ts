import type { Instant } from '../instant.ts';

/** An environment as far as it may need somebody. */
export interface PlaceNow {
  readonly name: string;
  readonly place: number;
  readonly hold: { readonly by: string; readonly since: Instant; readonly reason: string } | null;
  /** What passed and waits for somebody's word. */
  readonly offer: {
    readonly build: number;
    readonly subject: string;
    readonly since: Instant;
  } | null;
  /** The build that came last, if it failed. */
  readonly failed: number | null;
}

/** A preview that ends soon, as nobody touches it, and whose it is. */
export interface EndingNow {
  readonly name: string;
  readonly owner: string | null;
  readonly endsAt: Instant;
}

/** A project as far as it may need somebody. */
export interface ProjectNow {
  readonly name: string;
  readonly environments: readonly PlaceNow[];
  /** Previews that end soon: their owners are told. */
  readonly ending: readonly EndingNow[];
  /** What keeps its repository from being read, and since when it was read. */
  readonly trouble: { readonly says: string; readonly since: Instant | null } | null;
  /** The pull request of an outsider that waits longest for a member's word. */
  readonly word: { readonly name: string; readonly title: string; readonly since: Instant } | null;
}

/** Why a project needs somebody, the most pressing kind first. */
export const needKinds = ['held', 'offered', 'word', 'trouble', 'failed', 'ending'] as const;

/** One project's most pressing need. */
export type Need = { readonly project: string; readonly since: Instant | null } & (
  | {
      readonly kind: 'held';
      readonly environment: string;
      readonly by: string;
      readonly says: string;
    }
  | {
      readonly kind: 'offered';
      readonly environment: string;
      readonly build: number;
      readonly says: string;
    }
  | { readonly kind: 'word'; readonly pullRequest: string; readonly says: string }
  | { readonly kind: 'trouble'; readonly says: string }
  | { readonly kind: 'failed'; readonly environment: string; readonly build: number }
  | { readonly kind: 'ending'; readonly environment: string; readonly endsAt: Instant }
);

/**
 * Says which projects need somebody, each once and for its most pressing reason: what keeps visitors from a change, then
 * what waits for a word, then what stands still, then what failed before it reached anybody; last what of the reader's own
 * ends soon. Within a kind, the longest first. `reader` is who reads it, by name.
 */
export function needsOf(projects: readonly ProjectNow[], reader: string | null): readonly Need[] {
  return projects
    .flatMap((project) => needsOfOne(project, reader).toSorted(morePressing).slice(0, 1))
    .toSorted(morePressing);
}

function needsOfOne(
  { name: project, environments, ending, trouble, word }: ProjectNow,
  reader: string | null,
): readonly Need[] {
  const own = ending.filter(({ owner }) => owner !== null && owner === reader);
  return [
    ...own.map(({ name: environment, endsAt }) => ({
      kind: 'ending' as const,
      project,
      environment,
      endsAt,
      since: null,
    })),
    ...environments.flatMap(({ name: environment, hold, offer, failed }): readonly Need[] => [
      ...(hold === null
        ? []
        : [
            {
              kind: 'held' as const,
              project,
              environment,
              by: hold.by,
              says: hold.reason,
              since: hold.since,
            },
          ]),
      ...(offer === null
        ? []
        : [
            {
              kind: 'offered' as const,
              project,
              environment,
              build: offer.build,
              says: offer.subject,
              since: offer.since,
            },
          ]),
      ...(failed === null
        ? []
        : [{ kind: 'failed' as const, project, environment, build: failed, since: null }]),
    ]),
    ...(word === null
      ? []
      : [
          {
            kind: 'word' as const,
            project,
            pullRequest: word.name,
            says: word.title,
            since: word.since,
          },
        ]),
    ...(trouble === null
      ? []
      : [{ kind: 'trouble' as const, project, says: trouble.says, since: trouble.since }]),
  ];
}

/** What is not known to have begun has begun last. */
function morePressing(one: Need, other: Need): number {
  const kinds = needKinds.indexOf(one.kind) - needKinds.indexOf(other.kind);
  if (kinds !== 0) return kinds;
  const [since, than] = [
    one.since ?? Number.MAX_SAFE_INTEGER,
    other.since ?? Number.MAX_SAFE_INTEGER,
  ];
  return since === than ? one.project.localeCompare(other.project) : since - than;
}
