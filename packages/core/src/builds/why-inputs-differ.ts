import type { Digest } from '../digest.ts';
import type { Trust } from '../refs/pull-request.ts';

/** What decides, beside the commit, which bytes a build makes. */
export interface BuildInputs {
  readonly trust: Trust;
  /** The names of its steps. */
  readonly steps: readonly string[];
  /** The names that it is given, with keyed digests of their values. */
  readonly given: Readonly<Record<string, Digest>>;
}

/**
 * Says in words why a build of one commit would not have the inputs that another of the same commit had, each reason by
 * itself; none where they are the same. `there` is where the build to come goes.
 */
export function whyInputsDiffer(
  before: BuildInputs,
  after: BuildInputs,
  there: string,
): readonly string[] {
  const steps = [
    ...after.steps
      .filter((step) => !before.steps.includes(step))
      .map((step) => `the step ${step} is run for ${there} alone`),
    ...before.steps
      .filter((step) => !after.steps.includes(step))
      .map((step) => `the step ${step} is not run for ${there}`),
  ];
  const names = [...new Set([...Object.keys(before.given), ...Object.keys(after.given)])].sort();
  const values = names.flatMap((name) => {
    const [one, other] = [before.given[name], after.given[name]];
    if (one === other) return [];
    if (one === undefined) return [`${name} is given for ${there} alone`];
    return [
      other === undefined
        ? `${name} is not given for ${there}`
        : `${name} has another value for ${there}`,
    ];
  });
  const trust =
    before.trust === after.trust ? [] : ['nothing that an outsider’s code made is taken over'];
  return [...trust, ...steps, ...values];
}
