import type { PullRequestReply } from '@vaquero/contracts';
import { safe } from '../output.ts';

/** Whether a pull request merges cleanly, and what comes of it. */
export function mergeInWords({ merge, into }: PullRequestReply): readonly string[] {
  if (merge === null) return [];
  const how = {
    nothing: `${into} has all of it already`,
    'fast-forward': `cleanly: ${into} moves on to its head`,
    commit: 'cleanly, by a commit of both',
    conflicts: `not cleanly: both have changed ${merge.paths.slice(0, 3).join(', ')}${merge.paths.length > 3 ? ` and ${merge.paths.length - 3} more` : ''}`,
    impossible: `not: ${merge.why ?? ''}`,
  }[merge.how];
  return [`merge      ${safe(how)}`, ...merge.follows.map((line) => `           ${safe(line)}`)];
}
