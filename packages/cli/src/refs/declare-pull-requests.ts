import type { Act, Add } from '../declare.ts';
import {
  closePullRequest,
  giveWord,
  listPullRequests,
  openPullRequest,
  showPullRequest,
} from './pull-requests.ts';

/** Declares the commands about pull requests. */
export function pullRequests(add: Add, act: Act): void {
  add('pull-requests <project>', 'what is proposed to be merged, and what was built of it').action(
    act((context, project: string) => listPullRequests(context, project)),
  );
  add('pull-request <project> <name>', 'one of them, such as pr-3').action(
    act((context, project: string, name: string) => showPullRequest(context, project, name)),
  );
  add('open-pull-request <project> <branch>', 'propose that a branch be merged')
    .option('--into <branch>', 'what it would be merged into; the project’s branch otherwise')
    .option('--place <address>', 'a repository elsewhere that has the branch: an outsider’s')
    .option('--title <text>', 'what it is about; the branch’s name otherwise')
    .action(
      act(
        (
          context,
          project: string,
          branch: string,
          options: { into?: string; place?: string; title?: string },
        ) => openPullRequest(context, project, branch, options),
      ),
    );
  add('give-word <project> <name>', 'let the newest commit of an outsider be built')
    .option('--commit <id>', 'the commit that you looked at')
    .option('--yes', 'do not ask')
    .action(
      act((context, project: string, name: string, options: { commit?: string }) =>
        giveWord(context, project, name, options.commit),
      ),
    );
  add('close-pull-request <project> <name>', 'follow it no more; what was built stays').action(
    act((context, project: string, name: string) => closePullRequest(context, project, name)),
  );
}
