/** One thing that happens in the demo's three weeks. Times are UTC, days count back from today. */
export type Happening =
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      readonly push: string;
      readonly edit: Edit;
      /** The build is left running: somebody cancels it. */
      readonly leave?: boolean;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      /** A commit on a branch of its own, with a pull request of this title. */
      readonly propose: string;
      readonly branch: string;
      readonly edit: Edit;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      /** A branch that was proposed is merged into main. */
      readonly merge: string;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      /** Somebody outside has changed a copy of the repository; an operator opens a pull request of it. */
      readonly takeUp: string;
      readonly author: string;
      readonly branch: string;
      readonly edit: Edit;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      readonly act: 'promote' | 'cancel';
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      readonly act: 'set-map';
      readonly from: string;
      readonly to: string;
      readonly reason: string;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      /** A commit on a branch that nobody proposes. */
      readonly show: string;
      readonly branch: string;
      readonly edit: Edit;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      readonly act: 'set-secret';
      readonly name: string;
      readonly value: string;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      readonly act: 'roll-back' | 'lift-hold';
      readonly reason: string;
    };

export type Who = 'ines' | 'jonas' | 'tomas' | 'wren' | 'petra';

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
