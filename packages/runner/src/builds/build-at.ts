import type { AttemptGiven } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import type { Told } from '../artifacts/last-proposed.ts';
import type { FileStore } from '../artifacts/store-files.ts';
import type { Limits } from '../config.ts';
import type { OutputStore } from '../outputs/output-store.ts';
import type { SharedOutputs } from '../outputs/shared-outputs.ts';
import type { SourceCache } from '../sources/source-cache.ts';
import type { Anterooms } from '../walls/anteroom.ts';
import type { Slot, Workplace } from '../walls/slot.ts';
import type { UsedWorkplaces } from '../walls/used-workplaces.ts';
import type { AttemptClient } from './attempt-client.ts';
import type { Caches } from './caches.ts';
import type { ReportBudget } from './hand-reports.ts';
import type { LogSender } from './log-sender.ts';
import type { StepTeller } from './step-reports.ts';
import type { ToolVersions } from './tool-versions.ts';

/** What running a build takes. */
export interface BuildRun {
  readonly given: AttemptGiven;
  readonly api: AttemptClient;
  readonly slot: Slot;
  readonly limits: Limits;
  readonly withoutWalls: boolean;
  readonly storeElsewhere: boolean;
  readonly npmrc: string;
  readonly store: FileStore;
  readonly outputs: OutputStore;
  /** What runners of other machines made, and what they get from this one. */
  readonly shared: SharedOutputs;
  /** Trees of earlier builds; null where the machine cannot show them without being written to. */
  readonly sources: SourceCache | null;
  readonly caches: Caches;
  readonly anterooms: Anterooms;
  /** What the service was last told of each project's output. */
  readonly told: Map<string, Told>;
  /** Versions of programs, as steps find them. */
  readonly tools: ToolVersions;
  readonly used: UsedWorkplaces;
  readonly clock: () => Instant;
  readonly signal: AbortSignal;
  /** Called when the api cannot be told the log or the steps: the attempt is given up. */
  readonly giveUp: (error: unknown) => void;
  /** Hears what a build threw outside its steps, for the operator. */
  readonly faulty: (error: unknown) => void;
}

/** A build under way. */
export interface BuildAt extends BuildRun {
  readonly workplace: Workplace;
  readonly log: LogSender;
  readonly mask: (line: string) => string;
  readonly steps: StepTeller;
  /** What of its reports has been handed over. */
  readonly reports: ReportBudget;
}
