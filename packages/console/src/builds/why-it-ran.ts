import type { BuildReply } from '@vaquero/contracts';

type Step = BuildReply['steps'][number];

/** Why a step ran, or did not, in one or two short lines. */
export function whyItRan(build: BuildReply, step: Step): readonly string[] {
  const written = build.recipe?.recipe.steps.find((one) => one.name === step.name);
  if (step.reused !== null)
    return [`reused from build ${step.reused.build}`, 'all it reads is the same'];
  if (step.state === 'skipped') {
    const needs = step.after.filter((name) => isShort(build, name));
    return [`not run: needs ${needs.join(', ') || 'what failed'}`];
  }
  if (step.state === 'waiting') return [];
  if (written === undefined) return ['always runs'];
  if (step.state === 'flaky') return [`passed at try ${step.tries} of ${written.tries}`];
  if (step.state === 'warned') return ['its failure is a warning'];
  if (written.reads === null || written.writes === null)
    return ['runs in every build:', 'does not say what it reads and writes'];
  return ['what it reads, its command,', 'or a step before it is new'];
}

function isShort(build: BuildReply, name: string): boolean {
  const state = build.steps.find((one) => one.name === name)?.state;
  return state === 'failed' || state === 'skipped';
}
