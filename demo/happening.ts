import type { Verdict } from '@vaquero/core';

/** When something happens, and who does it. Times are UTC, days count back from today. */
interface Moment {
  readonly day: number;
  readonly at: string;
  readonly who: Who;
}

/** One thing that happens in the demo's three weeks. */
export type Happening = Moment &
  (
    | {
        readonly push: string;
        readonly edit: Edit;
        /** The build is left running: somebody cancels it. */
        readonly leave?: boolean;
      }
    | {
        /** A commit on a branch of its own, with a pull request of this title. */
        readonly propose: string;
        readonly branch: string;
        readonly edit: Edit;
        readonly isDraft?: boolean;
      }
    | {
        /** A branch that was proposed is merged into main. */
        readonly merge: string;
      }
    | {
        /** Somebody outside has changed a copy of the repository; an operator opens a pull request of it. */
        readonly takeUp: string;
        readonly author: string;
        readonly branch: string;
        readonly edit: Edit;
      }
    | {
        readonly act: 'promote' | 'cancel' | 'make-signage' | 'let-in' | 'invite' | 'gather';
      }
    | {
        readonly act: 'set-map';
        readonly from: string;
        readonly to: string;
        readonly reason: string;
      }
    | {
        /** A commit on a branch that nobody proposes. */
        readonly show: string;
        readonly branch: string;
        readonly edit: Edit;
      }
    | {
        /** What somebody says of a pull request's newest commit. */
        readonly act: 'verdict';
        readonly lookAfter: string;
        readonly verdict: Verdict;
        readonly says: string;
      }
    | {
        readonly act: 'keep';
        readonly lookAfter: string;
        readonly until: () => string;
        readonly reason: string;
      }
    | {
        /** A link to a preview is lent, a token is made for a program, or a member gives their word for an outsider's commit. */
        readonly act: 'lend' | 'make-token' | 'give-word';
        readonly lookAfter: string;
      }
    | {
        readonly act: 'set-secret';
        readonly name: string;
        readonly value: string;
      }
    | {
        readonly act: 'roll-back' | 'lift-hold';
        readonly reason: string;
      }
  );

export type Who = 'ines' | 'jonas' | 'tomas' | 'wren' | 'petra' | 'oda' | 'milo';

/** A change of the site's files: JSON files by path to new fields, texts by path to a replacement. */
export type Edit =
  | { readonly json: string; readonly set: Readonly<Record<string, unknown>> }
  | { readonly file: string; readonly from: string; readonly to: string }
  | {
      readonly json: string;
      readonly rename: { readonly from: string; readonly to: string; readonly name: string };
    }
  /** Files of `demo/later/` are laid over the site. */
  | { readonly lay: string }
  /** The commit before is taken back. */
  | { readonly revert: true };
