export { type GitHost, startGitHost } from './git-host.ts';
