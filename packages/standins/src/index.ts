export { type GitHost, startGitHost } from './git-host.ts';
export {
  type IdentityProvider,
  type KnownThere,
  startIdentityProvider,
} from './identity-provider.ts';
export { type Mail, type PostOffice, startPostOffice } from './post-office.ts';
export { type SshHost, startSshHost } from './ssh-host.ts';
