/** The states of a build, in the order it can pass them. */
export const buildStates = [
  'queued',
  'waiting',
  'running',
  'reused',
  'passed',
  'failed',
  'cancelled',
] as const;
export type BuildState = (typeof buildStates)[number];

/** Whether a build in this state can still change. */
export function isOpen(state: BuildState): boolean {
  return state === 'queued' || state === 'waiting' || state === 'running';
}
