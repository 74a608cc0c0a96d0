import type { Instant } from './instant.ts';
import type { MemberKind, Role } from './people/may.ts';

/** One fault in a document: where it stands and what is wrong there. Lines and columns count from 1. */
export interface DocumentFault {
  readonly path: string;
  readonly message: string;
  readonly line: number | null;
  readonly column: number | null;
}

/** Every refusal Vaquero can give, with the fields that explain it. The sentences stand in contracts. */
export interface RefusalFields {
  'not-signed-in': { readonly tried: 'nothing' | 'session' | 'token' };
  'wrong-password': Record<never, never>;
  'code-needed': Record<never, never>;
  'elsewhere-none': Record<never, never>;
  'elsewhere-failed': { readonly called: string; readonly why: string };
  'elsewhere-unknown': { readonly called: string };
  'elsewhere-taken': { readonly called: string };
  'wrong-code': { readonly because: 'wrong' | 'used' };
  'factor-demanded': { readonly from: Role; readonly has: boolean };
  'factor-first': Record<never, never>;
  'no-factor': { readonly person: string };
  'too-many-tries': { readonly retryAfterS: number };
  'not-allowed': {
    readonly needs: string;
    readonly project: string | null;
    readonly has: readonly string[];
  };
  'token-git-only': { readonly token: string };
  'forged-request': { readonly because: 'origin' | 'header' | 'host' };
  'invalid-request': { readonly faults: readonly DocumentFault[] };
  'not-found': { readonly what: string; readonly name: string };
  'name-taken': { readonly name: string; readonly free: readonly string[] };
  'name-invalid': { readonly name: string; readonly rule: string };
  'key-used-otherwise': { readonly key: string };
  'repository-not-found': { readonly place: string };
  'address-not-allowed': { readonly host: string };
  'repository-denied': { readonly place: string };
  'repository-unreachable': { readonly place: string; readonly why: string };
  'branch-missing': { readonly branch: string; readonly branches: readonly string[] };
  'path-not-allowed': { readonly path: string; readonly roots: readonly string[] };
  'recipe-invalid': { readonly file: string; readonly faults: readonly DocumentFault[] };
  'recipe-file-wins': { readonly file: string; readonly commit: string };
  'nothing-proposed': { readonly commit: string | null };
  'no-commit-yet': { readonly branch: string };
  'environment-held': {
    readonly environment: string;
    readonly by: string;
    readonly since: number;
    readonly reason: string;
  };
  'environment-not-held': { readonly environment: string };
  'environment-moved': {
    readonly environment: string;
    readonly seen: string | null;
    readonly now: string | null;
    readonly deploy: number;
    readonly by: string;
    readonly at: number;
  };
  'environment-serves-nothing': { readonly environment: string };
  'accepts-from': { readonly environment: string; readonly from: string | null };
  'map-says-who': { readonly environment: string; readonly act: string; readonly who: string };
  'above-own-role': {
    readonly person: string | null;
    readonly role: Role;
    readonly own: Role | null;
  };
  'project-renamed': { readonly name: string; readonly now: string; readonly location: string };
  'project-ended': { readonly name: string; readonly at: number };
  'name-not-typed': { readonly name: string };
  'repository-shared': { readonly name: string; readonly others: readonly string[] };
  'last-operator': { readonly person: string };
  'granted-everywhere': { readonly person: string; readonly role: Role };
  'granted-by-group': { readonly person: string; readonly role: Role; readonly group: string };
  'only-people-operate': { readonly name: string };
  'no-group': { readonly name: string; readonly kind: MemberKind };
  'password-weak': { readonly why: string };
  'password-link-over': { readonly because: 'unknown' | 'used' | 'ended' | 'late' };
  'mail-none': Record<never, never>;
  'mail-failed': { readonly address: string; readonly why: string };
  'mail-link-over': { readonly because: 'unknown' | 'late' };
  'mail-address-taken': { readonly address: string };
  'mail-too-many': { readonly retryAfterS: number };
  'invitation-over': { readonly because: 'unknown' | 'used' | 'ended' | 'late' };
  'not-admitted': { readonly host: string };
  'not-lent': { readonly environment: string; readonly admits: string };
  'not-offered': { readonly environment: string; readonly build: number };
  'undone-there': { readonly environment: string; readonly build: number };
  'already-serves': { readonly environment: string; readonly build: number };
  'no-way-back': {
    readonly environment: string;
    /** What was named to go back to; null where the latest good deploy was meant. */
    readonly asked: { readonly deploy: number } | { readonly build: number } | null;
  };
  'artifact-gone': { readonly build: number };
  'source-incomplete': { readonly why: string };
  'commit-unreadable': { readonly why: string };
  'shown-once': { readonly what: string };
  'runner-builds': { readonly runner: string; readonly builds: number };
  'edge-serves': { readonly edge: string };
  /** A call that sets something anew does not say what of it was seen. */
  'condition-missing': Record<never, never>;
  'changed-since': { readonly what: string; readonly by: string; readonly at: Instant | null };
  /** A runner or an edge speaks another version of the protocol than those that the service does. */
  'other-protocol': { readonly speaks: number; readonly understood: readonly number[] };
  'map-invalid': { readonly faults: readonly DocumentFault[] };
  'environments-would-end': { readonly environments: readonly string[] };
  'not-a-family': { readonly environment: string };
  'token-too-narrow': { readonly token: string; readonly what: string };
  'token-needs-https': { readonly host: string };
  /** What lies at a new address is not the repository that a project was built from so far. */
  'repository-another': {
    readonly place: string;
    readonly branch: string;
    readonly commit: string;
  };
  'repository-hosted': { readonly project: string };
  /** A host over SSH shows another key than the one that somebody confirmed. */
  'host-key-changed': { readonly place: string };
  /** No key that waits to be used for a place has this name. */
  'key-unknown': { readonly place: string };
  /** What was confirmed is not the key that the host showed. */
  'host-key-unconfirmed': { readonly fingerprint: string; readonly shown: readonly string[] };
  /** A key for SSH where a token is wanted, or the other way round. */
  'credential-unfit': { readonly place: string; readonly wants: 'token' | 'key' };
  'no-credential-needed': { readonly place: string };
  'kept-too-long': { readonly until: Instant; readonly most: Instant };
  'too-many-kept': { readonly family: string; readonly atMost: number };
  'pull-request-draft': { readonly name: string };
  'pull-request-ended': { readonly name: string; readonly state: string };
  'pull-request-moved': {
    readonly name: string;
    readonly seen: string;
    readonly now: string | null;
  };
  'branch-elsewhere': { readonly name: string; readonly branch: string };
  'merges-elsewhere': { readonly name: string };
  'commits-elsewhere': { readonly project: string };
  'merge-conflicts': {
    readonly name: string;
    readonly into: string;
    /** Files that both have changed. */
    readonly paths: readonly string[];
    /** Where it is no matter of files. */
    readonly why: string | null;
  };
  'branch-moved': { readonly branch: string; readonly seen: string; readonly now: string | null };
  'pull-request-open': { readonly name: string; readonly branch: string; readonly into: string };
  'outsiders-not-built': { readonly name: string; readonly family: string };
  'no-word-needed': { readonly name: string };
  'place-not-allowed': { readonly place: string };
  'build-ended': { readonly build: number; readonly state: string };
  'edge-cannot-prepare': { readonly edge: string; readonly why: string };
  'immutable-changed': {
    readonly environment: string;
    readonly address: string;
    readonly build: number;
  };
  overtaken: { readonly environment: string; readonly intake: number; readonly served: number };
  'attempt-over': { readonly attempt: string };
  'database-away': { readonly since: number };
  'too-large': { readonly what: string; readonly limitBytes: number };
  internal: { readonly requestId: string };
}

/** The name of a refusal, the same in HTTP, CLI and console. */
export type RefusalCode = keyof RefusalFields;

/** A refusal: its code and the fields that explain it. */
export type Refusal = {
  readonly [Code in RefusalCode]: { readonly code: Code } & RefusalFields[Code];
}[RefusalCode];
