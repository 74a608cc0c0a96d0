import type { Json } from './log-entry.ts';

/** A person, a machine or Vaquero itself decided this: what each kind of decision says about itself. */
export interface DecisionFacts {
  'artifact.stored': { build: number; artifact: string; files: number; bytes: number };
  'attempt.begun': { build: number; attempt: string; fence: number; runner: string };
  'attempt.lost': { build: number; attempt: string; fence: number };
  'build.asked-for': { build: number; commit: string; earlier: string; meant: boolean };
  'build.cancelled': { build: number };
  'build.failed': { build: number; commit: string; attempt: string; reason: string };
  'build.overtaken': { build: number; commit: string; by: number };
  'build.passed': { build: number; commit: string; attempt: string; artifact: string | null };
  'build.scheduled': { build: number; commit: string; cron: string };
  /** Values were set otherwise while it waited: what is given other ones is built as `parts`, what has none has failed. */
  'build.values-changed': {
    build: number;
    commit: string;
    parts: readonly number[];
    unset: readonly string[];
  };
  'change.seen': {
    change: string;
    look: number;
    ref: string;
    from: string | null;
    to: string | null;
    builds: readonly number[];
    destination: string;
  };
  'edge.added': { edge: string };
  'edge.dropped': { edge: string };
  'environment.automatic': MoveFacts;
  'environment.let-in': MoveFacts;
  'environment.promoted': MoveFacts;
  'environment.rolled-back': MoveFacts;
  /** What its branch brought did not go live, and will not by itself; what is offered waits for somebody's word. */
  'environment.passed-over': {
    environment: string;
    build: number;
    intake: number;
    because: 'held' | 'overtaken' | 'failed' | 'offered';
  };
  'environment.made': { environment: string; rule: string; ref: string | null };
  /** One of a family that had ended lives again, with its history. */
  'environment.revived': { environment: string; rule: string; ref: string };
  'environment.ended': { environment: string; rule: string; because: string };
  'environment.kept': { environment: string; until: number };
  'environment.kept-no-longer': { environment: string };
  'environment.link-lent': { environment: string };
  'environment.link-closed': { environment: string };
  'environment.hold-lifted': { environment: string; since: number };
  /** Written up to 0.11, when what is overtaken stood beside the map. */
  'environment.set': { environment: string };
  /** Written up to 0.13, when what stops a build stood beside the map. */
  'group.made': { group: string };
  'group.ended': { group: string };
  'group.joined': { group: string; person: string };
  'group.left': { group: string; person: string };
  'inspection.set': Record<never, never>;
  'map.set': { version: number; made: readonly string[]; ended: readonly string[] };
  'person.added': { person: string; role: string | null };
  'person.granted': { person: string; role: string };
  'person.grant-ended': { person: string; role: string };
  'person.invited': { invitation: string; role: string };
  'person.invitation-ended': { invitation: string };
  'person.joined': { person: string; invitation: string; role: string };
  'person.password-link-made': { person: string };
  /** `link`: by a link that an operator made, in place of the password that held. */
  'person.password-set': { sessionsEnded: number; link?: boolean };
  /** A second factor holds from now on, in place of any before. */
  'person.factor-set': Record<never, never>;
  /** Somebody signs in by another installation from now on, too; or no more. */
  'person.elsewhere-joined': { issuer: string };
  'person.elsewhere-left': { issuer: string };
  /** `person`: an operator ended somebody's. */
  'person.factor-ended': { person: string };
  'person.recovery-word-used': { left: number };
  /** From which role on a second factor is demanded; null demands none. */
  'installation.factor-demanded': { from: string | null; sessionsEnded: number };
  /** Somebody has shown that mail to an address reaches them; or it is theirs no more. The log names none, as it stays for ever. */
  'person.mail-proven': Record<never, never>;
  'person.mail-dropped': Record<never, never>;
  'person.session-ended': { session: string };
  'person.signed-in': Record<never, never>;
  'person.signed-out': Record<never, never>;
  'repository.credential-set': { user: string };
  'repository.credential-dropped': Record<never, never>;
  /** It is read from another address from now on; what it was read with went, unless another was given. */
  'repository.moved': { kind: string; isAnother: boolean };
  /** The environments that ended and the builds that were stopped; values, services and the token of a repository went, too. */
  'project.ended': { environments: readonly string[]; builds: readonly number[] };
  'project.renamed': { from: string; to: string };
  'project.source-set': { branch: string; folder: string };
  'project.made': {
    repository: string;
    branch: string;
    folder: string;
    map: number;
    recipe: boolean;
  };
  'pull-request.closed': PullRequestFacts;
  'pull-request.draft-set': PullRequestFacts & { isDraft: boolean };
  'pull-request.merged': PullRequestFacts;
  'pull-request.opened': {
    pullRequest: number;
    into: string;
    branch: string;
    place: string | null;
    trust: string;
  };
  'pull-request.reopened': PullRequestFacts;
  'pull-request.retargeted': PullRequestFacts;
  'pull-request.verdict-given': { pullRequest: number; commit: string; verdict: string };
  'pull-request.word-given': { pullRequest: number; commit: string; builds: readonly number[] };
  'recipe.accepted': { version: number; site: Json };
  'runner.added': { runner: string };
  'runner.draining': { runner: string };
  'runner.dropped': { runner: string };
  'runner.used': { runner: string };
  'service.made': { service: string; role: string };
  'service.ended': { service: string; tokens: number };
  'token.made': { token: string; kind: string; expiresAt: number; scope?: Json };
  'token.revoked': { token: string; madeWithIt: readonly string[] };
  'variable.dropped': { name: string; environment: string };
  'variable.set': { name: string; environment: string; kind: string };
}

interface MoveFacts {
  environment: string;
  deploy: number;
  artifact: string;
  commit: string;
  intake: number;
  undoes: { first: number; last: number } | null;
}

interface PullRequestFacts {
  pullRequest: number;
  into: string;
  head: string | null;
  because?: 'gone';
}

export type DecisionKind = keyof DecisionFacts;

/** One decision: its kind, what it says, and, where it set something anew, what that was before and is after. */
export type MadeDecision = {
  [Kind in DecisionKind]: {
    readonly kind: Kind;
    readonly facts: Readonly<DecisionFacts[Kind]>;
    readonly before?: Json;
    readonly after?: Json;
  };
}[DecisionKind];

/** What somebody who looks at a project sees change. */
export type PartOfProject = 'build' | 'environment' | 'repository' | 'recipe' | 'settings';

/** What follows from a kind of decision for those who read the log. */
export interface Traits {
  /** The part of its project that looks different now; null where no page shows it. */
  readonly shows: PartOfProject | null;
  /** It changed what edges answer. */
  readonly routing: boolean;
  /** There may be a build to begin now that there was not before. */
  readonly queues: boolean;
}

const plain = (shows: PartOfProject | null): Traits => ({ shows, routing: false, queues: false });
const routed = (shows: PartOfProject | null): Traits => ({ ...plain(shows), routing: true });
const queued = (shows: PartOfProject | null): Traits => ({ ...plain(shows), queues: true });

/** The traits of each kind of decision. */
export const traits: Readonly<Record<DecisionKind, Traits>> = {
  'artifact.stored': routed(null),
  'attempt.begun': plain('build'),
  'attempt.lost': queued('build'),
  'build.asked-for': queued('build'),
  'build.cancelled': plain('build'),
  'build.failed': plain('build'),
  'build.overtaken': plain('build'),
  'build.passed': routed('build'),
  'build.scheduled': queued('build'),
  'build.values-changed': queued('build'),
  'change.seen': queued('repository'),
  'edge.added': plain(null),
  'edge.dropped': plain(null),
  'environment.automatic': routed('environment'),
  'environment.promoted': routed('environment'),
  'environment.let-in': routed('environment'),
  'environment.rolled-back': routed('environment'),
  'environment.passed-over': plain('environment'),
  'environment.made': { ...routed('environment'), queues: true },
  'environment.revived': { ...routed('environment'), queues: true },
  'environment.ended': routed('environment'),
  'environment.kept': plain('environment'),
  'environment.kept-no-longer': plain('environment'),
  'environment.link-lent': routed('environment'),
  'environment.link-closed': routed('environment'),
  'environment.hold-lifted': plain('environment'),
  'environment.set': plain('environment'),
  'map.set': routed('settings'),
  'group.made': plain(null),
  'group.ended': plain(null),
  'group.joined': plain(null),
  'group.left': plain(null),
  'inspection.set': plain('settings'),
  'person.added': plain(null),
  'person.granted': plain('settings'),
  'person.grant-ended': plain('settings'),
  'person.invited': plain('settings'),
  'person.invitation-ended': plain('settings'),
  'person.joined': plain('settings'),
  'person.password-link-made': plain(null),
  'person.password-set': plain(null),
  'person.factor-set': plain(null),
  'person.elsewhere-joined': plain(null),
  'person.elsewhere-left': plain(null),
  'person.factor-ended': plain(null),
  'person.recovery-word-used': plain(null),
  'installation.factor-demanded': plain(null),
  'person.mail-proven': plain(null),
  'person.mail-dropped': plain(null),
  'person.session-ended': plain(null),
  'person.signed-in': plain(null),
  'person.signed-out': plain(null),
  'project.made': routed('repository'),
  'repository.credential-set': plain('settings'),
  'repository.moved': plain('repository'),
  'repository.credential-dropped': plain('settings'),
  'project.ended': routed('repository'),
  'project.renamed': routed('repository'),
  'project.source-set': plain('settings'),
  'pull-request.closed': plain('repository'),
  'pull-request.draft-set': plain('repository'),
  'pull-request.merged': plain('repository'),
  'pull-request.reopened': plain('repository'),
  'pull-request.retargeted': plain('repository'),
  'pull-request.opened': plain('repository'),
  'pull-request.verdict-given': plain('repository'),
  'pull-request.word-given': queued('repository'),
  'recipe.accepted': plain('recipe'),
  'runner.added': plain(null),
  'runner.draining': plain(null),
  'runner.dropped': plain(null),
  'runner.used': queued(null),
  'service.made': plain('settings'),
  'service.ended': plain('settings'),
  'token.made': plain(null),
  'token.revoked': plain(null),
  'variable.dropped': plain('settings'),
  'variable.set': plain('settings'),
};

/** The kinds of decisions with a trait, in the order of the alphabet. */
export function kindsThat(has: 'routing' | 'queues'): readonly DecisionKind[] {
  const all = Object.keys(traits) as DecisionKind[];
  return all.filter((kind) => traits[kind][has]);
}

/** The traits of a kind as the log names it; a kind of another version of Vaquero has none. */
export function traitsOf(kind: string): Traits {
  return Object.hasOwn(traits, kind) ? traits[kind as DecisionKind] : plain(null);
}
