import { FollowedLog } from './followed-log.tsx';
import { WholeLog } from './whole-log.tsx';

/** What a build's page knows of its log. */
export interface LogOf {
  readonly project: string;
  readonly build: number;
  readonly attempts: number;
  readonly telling: number | null;
  readonly steps: readonly string[];
  /** Numbers of lines that the last good build did not say. */
  readonly fresh: readonly number[];
  readonly good: number | null;
}

/** A build's log, split by step: its end as it comes while the build runs, all of it when that is over. */
export function LogPane({ isRunning, ...log }: LogOf & { readonly isRunning: boolean }) {
  return isRunning ? (
    <FollowedLog {...log} />
  ) : (
    <WholeLog key={`${log.build} ${log.attempts}`} {...log} />
  );
}
