import type { BuildReply } from '@vaquero/contracts';

/**
 * How long a build still takes, in ms, from now or from when it begins; below nothing when it is over its
 * usual time, null when no earlier build tells. The steps to come tell it best; without them, what such builds took as a whole.
 */
export function timeLeft(build: BuildReply, now: number): number | null {
  const { startedAt, usual, steps } = build;
  const foretold = steps.flatMap((step) => step.expected?.endsAt ?? []);
  const isForetold = steps.every((step) => step.endedAt !== null || step.expected !== null);
  if (isForetold && foretold.length > 0) return Math.max(...foretold) - now;
  if (usual === null) return null;
  return startedAt === null ? usual.medianMs : usual.medianMs - (now - startedAt);
}
