import type { Json } from '../audit/log-entry.ts';
import type { Digest } from '../digest.ts';
import type { Recipe } from '../recipes/recipe.ts';
import type { Trust } from '../refs/pull-request.ts';

/** All that a statement of where an artifact came from says. Instants are milliseconds since 1970 UTC. */
export interface ProvenanceFacts {
  readonly project: string;
  readonly build: number;
  readonly artifact: Digest;
  readonly repository: string;
  readonly folder: string;
  readonly ref: string;
  readonly trust: Trust;
  readonly commit: string;
  readonly recipe: Recipe;
  readonly recipeDigest: Digest;
  readonly tools: Readonly<Record<string, string>>;
  /** Names of variables and secrets that steps were given; never values. */
  readonly given: readonly string[];
  readonly steps: readonly {
    readonly name: string;
    readonly state: string;
    readonly startedAt: number | null;
    readonly endedAt: number | null;
    readonly reusedFrom: number | null;
  }[];
  readonly attempt: string;
  readonly runner: string;
  readonly service: { readonly address: string; readonly version: string };
  readonly startedAt: number;
  readonly endedAt: number;
}

/**
 * The statement that an artifact came from a commit by a recipe.
 * Source: in-toto Statement v1; SLSA provenance v1 (buildDefinition, runDetails).
 */
export function provenanceStatement(facts: ProvenanceFacts): Json {
  return {
    _type: 'https://in-toto.io/Statement/v1',
    subject: [
      { name: `${facts.project}/build-${facts.build}`, digest: { sha256: facts.artifact } },
    ],
    predicateType: 'https://slsa.dev/provenance/v1',
    predicate: {
      buildDefinition: {
        buildType: `${facts.service.address}/build-types/recipe/v1`,
        externalParameters: {
          repository: facts.repository,
          folder: facts.folder,
          ref: facts.ref,
          recipe: facts.recipe as unknown as Json,
        },
        internalParameters: {
          given: [...facts.given],
          tools: { ...facts.tools },
          trust: facts.trust,
        },
        resolvedDependencies: [
          { uri: `git+${facts.repository}@${facts.ref}`, digest: { gitCommit: facts.commit } },
          { name: 'recipe', digest: { sha256: facts.recipeDigest } },
          // Submodules need no entry: the commit above names theirs.
          ...lendersOf(facts),
        ],
      },
      runDetails: {
        builder: {
          id: `${facts.service.address}/runners/${facts.runner}`,
          version: { vaquero: facts.service.version },
        },
        metadata: {
          invocationId: facts.attempt,
          startedOn: stamp(facts.startedAt),
          finishedOn: stamp(facts.endedAt),
        },
        byproducts: facts.steps.map((step) => ({
          name: step.name,
          annotations: {
            state: step.state,
            startedOn: step.startedAt === null ? null : stamp(step.startedAt),
            finishedOn: step.endedAt === null ? null : stamp(step.endedAt),
            reusedFromBuild: step.reusedFrom,
          },
        })),
      },
    },
  };
}

/** The commits that borrowed steps were taken from. */
function lendersOf({ recipe, service }: ProvenanceFacts): readonly Json[] {
  return recipe.steps.flatMap(({ name, borrows }) =>
    borrows === null
      ? []
      : [
          {
            name: `step ${name}`,
            uri: `git+${service.address}/git/${borrows.project}.git`,
            digest: { gitCommit: borrows.commit },
          },
        ],
  );
}

/** A time stamp in UTC. Source: RFC 3339, section 5.6. Reckoned here, since core has no Date. */
export function stamp(at: number): string {
  const two = (figure: number): string => String(figure).padStart(2, '0');
  const seconds = Math.floor(at / 1000);
  // Days since 1 March of the year 0, so that the leap day ends a year. Source: Hinnant, "chrono-Compatible Low-Level Date Algorithms".
  const days = Math.floor(seconds / 86_400) + 719_468;
  const era = Math.floor(days / 146_097);
  const dayOfEra = days - era * 146_097;
  const yearOfEra = Math.floor(
    (dayOfEra -
      Math.floor(dayOfEra / 1460) +
      Math.floor(dayOfEra / 36_524) -
      Math.floor(dayOfEra / 146_096)) /
      365,
  );
  const dayOfYear =
    dayOfEra - (365 * yearOfEra + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100));
  const shifted = Math.floor((5 * dayOfYear + 2) / 153);
  const day = dayOfYear - Math.floor((153 * shifted + 2) / 5) + 1;
  const month = shifted < 10 ? shifted + 3 : shifted - 9;
  const year = yearOfEra + era * 400 + (month <= 2 ? 1 : 0);
  const time = ((seconds % 86_400) + 86_400) % 86_400;
  const clock = [Math.floor(time / 3600), Math.floor(time / 60) % 60, time % 60].map(two).join(':');
  return `${String(year).padStart(4, '0')}-${two(month)}-${two(day)}T${clock}Z`;
}
