import type { SiteFolder } from '../artifacts/site-folders.ts';
import type { Digest } from '../digest.ts';
import type { Finding } from '../evidence/finding.ts';
import type { DocumentFault } from '../refusal.ts';
import { shellWord } from '../shell-word.ts';

/** How a step's process ended, when it did not end well. */
export type StepEnd =
  | { readonly kind: 'exit'; readonly exitCode: number }
  | { readonly kind: 'signal'; readonly signal: string }
  | { readonly kind: 'time-limit'; readonly limitMs: number }
  | { readonly kind: 'memory-limit'; readonly limitBytes: number }
  | { readonly kind: 'disk-limit'; readonly limitBytes: number }
  | { readonly kind: 'log-limit'; readonly limitBytes: number }
  | { readonly kind: 'helper'; readonly helper: string }
  | { readonly kind: 'walls'; readonly why: string }
  /** What the recipe says of its paths does not fit the commit. */
  | {
      readonly kind: 'paths';
      readonly why: string;
      /** Which of the step's words it is about, as far as that can be told. */
      readonly at: { readonly key: 'reads' | 'writes'; readonly path: string } | null;
    };

/** Why a build failed: one case for each way, with what explains it. */
export type BuildFailure =
  | {
      readonly reason: 'step';
      readonly step: string;
      readonly end: StepEnd;
      readonly atProcessLimit: boolean;
    }
  | {
      readonly reason: 'recipe-missing';
      readonly because: readonly string[];
      /** Sites of which a person takes one. */
      readonly candidates?: readonly string[];
    }
  | {
      readonly reason: 'recipe-invalid';
      readonly file: string;
      readonly faults: readonly DocumentFault[];
    }
  | {
      readonly reason: 'output-absent';
      readonly site: string | null;
      readonly folders: readonly SiteFolder[];
    }
  | {
      readonly reason: 'output-empty';
      readonly site: string;
      readonly folders: readonly SiteFolder[];
    }
  | {
      readonly reason: 'entry-absent';
      readonly site: string;
      readonly entry: string;
      readonly folders: readonly SiteFolder[];
    }
  | { readonly reason: 'missing-page-absent'; readonly site: string; readonly missing: string }
  /** Two folders would answer at one address. */
  | {
      readonly reason: 'sites-overlap';
      readonly site: string;
      readonly path: string;
      readonly other: string;
    }
  | { readonly reason: 'link-leaves'; readonly path: string; readonly target: string }
  | { readonly reason: 'special-file'; readonly path: string; readonly kind: string }
  | { readonly reason: 'bad-name'; readonly path: string; readonly fault: string }
  | { readonly reason: 'names-unset'; readonly names: readonly string[] }
  | {
      readonly reason: 'names-withheld';
      readonly names: readonly string[];
      readonly pullRequest: string;
    }
  | {
      readonly reason: 'inspection';
      readonly findings: readonly Finding[];
      /** How many there are in all, where only the worst are kept here. */
      readonly total?: number;
      /** What was inspected: it never went anywhere, and all that was found of it stands under its name. */
      readonly artifact?: Digest;
    }
  | { readonly reason: 'source'; readonly why: string }
  | { readonly reason: 'not-answering'; readonly address: string; readonly why: string }
  | { readonly reason: 'store'; readonly why: string }
  | { readonly reason: 'runner-fault'; readonly why: string }
  | { readonly reason: 'commit-unreadable'; readonly why: string }
  | { readonly reason: 'runner-lost'; readonly attempts: number };

/** A failure in three answers: what happened, why, what to do next. */
export interface FailureInWords {
  readonly what: string;
  readonly why: string;
  readonly next: string;
}

/** Says a failure in words. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one case for each way to fail; the compiler sees that none is left out.
export function failureInWords(failure: BuildFailure): FailureInWords {
  switch (failure.reason) {
    case 'step':
      return stepInWords(failure.step, failure.end, failure.atProcessLimit);
    case 'recipe-missing':
      return {
        what: 'No recipe could be proposed for this commit.',
        why: sentence(capital(failure.because[0] ?? 'nothing speaks for one')),
        next:
          failure.candidates === undefined || failure.candidates.length === 0
            ? 'Commit a vaquero.yaml that names the steps and the folder they write, or says serve: nothing.'
            : `Take one (vaquero accept-recipe PROJECT --candidate ${shellWord(failure.candidates[0] ?? '')}), or make a project for each with that folder.`,
      };
    case 'recipe-invalid':
      return {
        what: `${failure.file} cannot be read as a recipe.`,
        why: failure.faults.map(faultInWords).join(' '),
        next: 'Correct the file and push; nothing was run.',
      };
    case 'output-absent':
      return {
        what:
          failure.site === null
            ? 'The steps ran, but no folder looks like a site.'
            : `${quoted(failure.site)} is not there.`,
        why: foldersInWords(failure.folders),
        next: folderAdvice(failure.folders),
      };
    case 'output-empty':
      return {
        what: `${quoted(failure.site)} is there but holds no file.`,
        why: foldersInWords(failure.folders),
        next: folderAdvice(failure.folders),
      };
    case 'entry-absent':
      return {
        what: `${quoted(failure.site)} has no entry page ${quoted(failure.entry)}.`,
        why: foldersInWords(failure.folders),
        next: folderAdvice(failure.folders),
      };
    case 'missing-page-absent':
      return {
        what: `${quoted(failure.site)} has no page ${quoted(failure.missing)}.`,
        why: 'The recipe names it as the page for addresses that are not there.',
        next: 'Write the page, or take serve.missing out of the recipe.',
      };
    case 'sites-overlap':
      return {
        what: `${quoted(failure.path)} of ${quoted(failure.site)} lies where ${quoted(failure.other)} is published.`,
        why: 'The recipe publishes both at that address, and only one can be answered.',
        next: 'Take it out of the one folder, or publish the other by another prefix (serve.site).',
      };
    case 'link-leaves':
      return {
        what: `${quoted(failure.path)} is a link that leaves the output, to ${quoted(failure.target)}.`,
        why: 'A published link could show files of the machine that built it.',
        next: 'Copy the file into the output instead of linking to it.',
      };
    case 'special-file':
      return {
        what: `${quoted(failure.path)} is a ${failure.kind}, not a file.`,
        why: 'Only files, folders and links inside the output can be published.',
        next: 'Leave it out of the output.',
      };
    case 'bad-name':
      return {
        what: `The name ${quoted(failure.path)} ${failure.fault}.`,
        why: 'Such a name has no address that every browser asks for alike.',
        next: 'Rename the file.',
      };
    case 'source':
      return {
        what: 'The commit could not be fetched.',
        why: sentence(failure.why),
        next: 'Build again; if it stays, ask the operator to look at the repository.',
      };
    case 'not-answering':
      return {
        what: `The artifact does not answer at ${failure.address}.`,
        why: sentence(failure.why),
        next: 'Nothing moved. Ask the operator whether an edge runs, then build again.',
      };
    case 'store':
      return {
        what: 'The output could not be stored.',
        why: sentence(failure.why),
        next: 'Ask the operator to look at the disk of the store, then build again.',
      };
    case 'inspection': {
      const [first] = failure.findings;
      const more = (failure.total ?? failure.findings.length) - 1;
      return {
        what: `The inspection stopped it: ${first?.path || 'the output'}${first?.line == null ? '' : `, line ${first.line}`}, ${first?.message ?? ''}${more > 0 ? `, and ${more} more` : ''}.`,
        why: 'Nothing is served, not even at an address of its own, while a finding of this kind stands.',
        next: first?.cure ?? 'Correct the output and push.',
      };
    }
    case 'names-unset':
      return {
        what: `The recipe reads ${failure.names.join(', ')}, which nobody has set.`,
        why: 'Steps are given variables and secrets by name; a value that is not there would be found only by users.',
        next: `Set each (vaquero set PROJECT ${failure.names[0] ?? 'NAME'}, or on the project’s page), then build again.`,
      };
    case 'names-withheld':
      return {
        what: `The recipe reads ${failure.names.join(', ')}, which ${failure.pullRequest} is not given.`,
        why: 'Values are released only where the map sends a ref, and it sends no pull request; code of outsiders is never given one.',
        next: 'Keep the steps that read it out of pull requests (for: {branch: main}), or let them do without it.',
      };
    case 'runner-fault':
      return {
        what: 'The runner could not carry this build out.',
        why: sentence(failure.why),
        next: 'Look whether the commit or the recipe asks for something unusual; else ask the operator to look at the runner’s log.',
      };
    case 'commit-unreadable':
      return {
        what: 'The commit cannot be read.',
        why: sentence(failure.why),
        next: 'Correct the commit and push; it is read again only when somebody builds it again.',
      };
    case 'runner-lost':
      return {
        what: `The runner was lost ${failure.attempts} times during this build.`,
        why: 'No heartbeat came within its lease, each time.',
        next: 'Ask the operator to look at the runner, then build again.',
      };
  }
}

function stepInWords(step: string, end: StepEnd, atProcessLimit: boolean): FailureInWords {
  const next = 'Read its log from the telling line on, change the code and push.';
  if (atProcessLimit) {
    return {
      what: `Step ${step} failed and could start no more processes.`,
      why: 'It reached the limit of processes that one build may have at once.',
      next: 'Start fewer processes at a time.',
    };
  }
  switch (end.kind) {
    case 'helper':
      return {
        what: `Step ${step} did not begin: its helper ${end.helper} was not ready in time.`,
        why: 'Nothing answered on the port that the recipe names for it.',
        next: 'Read the helper’s lines in the log; correct its command or port, or give it more time (within).',
      };
    case 'exit':
      return {
        what: `Step ${step} ended with exit code ${end.exitCode}.`,
        why: 'Its command reported a failure.',
        next,
      };
    case 'signal':
      if (end.signal === 'SIGKILL')
        return {
          what: `Step ${step} was killed (SIGKILL) by something that is not Vaquero.`,
          why: 'It met none of its limits. Most often the machine ran out of memory and its kernel chose this process; a person or another program can do it too.',
          next: 'Build again. If it stays, ask the operator what the machine’s own log (dmesg) says, or let it do with less memory.',
        };
      return {
        what: `Step ${step} was ended by ${end.signal}.`,
        why: 'The command, or something it started, crashed or was killed.',
        next,
      };
    case 'time-limit':
      return {
        what: `Step ${step} was stopped after ${Math.round(end.limitMs / 1000)} s.`,
        why: 'That is the time a step may take.',
        next: 'Make it shorter, or find what it waits for.',
      };
    case 'memory-limit':
      return {
        what: `Step ${step} was stopped: it wanted over ${mebibytes(end.limitBytes)} of memory.`,
        why: 'That is what one build may hold at once.',
        next: 'Make it hold less at a time.',
      };
    case 'disk-limit':
      return {
        what: `Step ${step} was stopped: it wrote over ${mebibytes(end.limitBytes)}.`,
        why: 'That is what one build may write to disk.',
        next: 'Write less, or remove what is no longer needed on the way.',
      };
    case 'log-limit':
      return {
        what: `Step ${step} was stopped: its log passed ${mebibytes(end.limitBytes)}.`,
        why: 'That is what one build may say.',
        next: 'Make it say less.',
      };
    case 'paths':
      return {
        what: `Step ${step} did not begin: what it reads or writes cannot be shown to it.`,
        why: sentence(end.why),
        next: 'Correct its reads or writes in the recipe, or the link in the commit, and push.',
      };
    case 'walls':
      return {
        what: `Step ${step} could not be started behind the walls.`,
        why: sentence(end.why),
        next: 'Ask the operator to look at the runner.',
      };
  }
}

/** A fault of a document as one sentence with its place. */
export function faultInWords(fault: DocumentFault): string {
  const place = fault.line === null ? '' : `line ${fault.line}, column ${fault.column ?? 1}: `;
  return `${place}${fault.path === '' ? '' : `${fault.path} `}${sentence(fault.message)}`;
}

function foldersInWords(folders: readonly SiteFolder[]): string {
  if (folders.length === 0) return 'No folder has an index.html.';
  const said = folders.map(({ folder, files, committed }) => {
    const size = `${files} ${files === 1 ? 'file' : 'files'}`;
    const whose = committed === true ? ', but it came with the commit: no step wrote it' : '';
    return `${quoted(folder)} has an index.html and ${size}${whose}`;
  });
  return `${said.join('; ')}.`;
}

function folderAdvice(folders: readonly SiteFolder[]): string {
  const [first] = folders;
  if (first === undefined) return 'Look in the log whether the steps wrote anything.';
  return first.committed === true
    ? `If ${quoted(first.folder)} is what you mean to publish, name it (vaquero accept-recipe PROJECT --site ${shellWord(first.folder)}); otherwise look in the log what the steps wrote.`
    : `Set serve.site to ${quoted(first.folder)} and build again.`;
}

function quoted(text: string): string {
  return `“${text}”`;
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

function sentence(text: string): string {
  return /[.!?]$/.test(text) ? text : `${text}.`;
}

function mebibytes(bytes: number): string {
  return bytes >= 1 << 30
    ? `${Math.round(bytes / (1 << 30))} GiB`
    : `${Math.round(bytes / (1 << 20))} MiB`;
}
