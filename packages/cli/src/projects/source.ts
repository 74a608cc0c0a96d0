import { type SourceTrial, sourceRoutes } from '@vaquero/contracts';
import { authorInWords, folderInWords } from '@vaquero/core';
import { command, confirm, give, Misuse } from '../command.ts';
import type { Io } from '../io.ts';
import { safe, tone, when } from '../output.ts';

/** Shows which branch and folder a project is built from, or has it built from others, after saying what that changes. */
export const source = command({
  name: 'source',
  says: 'the branch and folder it is built from',
  examples: [
    'source timetable',
    'source timetable --folder site --reason "it moved"',
    'source timetable --branch harbour --try',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .option('--branch <name>', 'its own branch from now on')
      .option('--folder <path>', 'the folder of its recipe from now on; / for the root')
      .option('--reason <text>', 'stands beside it in the record')
      .option('--try', 'say what would change, and change nothing')
      .option('--yes', 'do not ask'),
  run: async (context, [project], { branch, folder, reason, try: isTrial }) => {
    const { io } = context;
    const params = { project };
    const now = await context.client.call(sourceRoutes.showSourceRoute, { params });
    if (branch === undefined && folder === undefined)
      return give(context, now, (seen) => showSource(io, seen));
    const wanted = { branch: branch ?? now.branch, folder: folder ?? now.folder };
    const tried = await context.client.call(sourceRoutes.trySourceRoute, { params, body: wanted });
    if (isTrial === true) return give(context, tried, (trial) => showTrial(io, trial));
    if (!context.json) showTrial(io, tried);
    const why = reason ?? (io.isTerminal ? await io.ask('Why? ') : '');
    if (why.trim() === '')
      throw new Misuse('It takes a reason: --reason "…". It stands beside it in the record.');
    await confirm(context, `Build ${project} from there from now on?`);
    const set = await context.client.call(sourceRoutes.setSourceRoute, {
      params,
      body: { ...wanted, reason: why },
      seen: now.version,
    });
    give(context, set, (seen) => showSource(io, seen));
  },
});

function showSource(io: Io, { branch, folder }: { branch: string; folder: string }): void {
  io.out(`branch   ${safe(branch)}`);
  io.out(`folder   ${folder === '' ? folderInWords({ folder }) : safe(folder)}`);
}

function showTrial(io: Io, { source: to, head, says, recipes }: SourceTrial): void {
  showSource(io, to);
  if (head !== null)
    io.out(
      `newest   ${head.commit.slice(0, 12)} “${safe(head.subject)}” by ${safe(authorInWords(head))}, ${when(head.at)}`,
    );
  for (const { name, from, steps, failure } of recipes)
    io.out(
      failure === null
        ? `recipe   ${safe(name)}, ${whence[from ?? 'file']}: ${safe(steps.join(', ')) || 'no step'}`
        : tone(io, 'bad', `recipe   ${safe(name)}: ${safe(failure)}`),
    );
  if (says.length === 0) io.out('Nothing would change.');
  for (const line of says) io.out(safe(line));
}

const whence = {
  file: 'its file',
  accepted: 'as it was accepted',
  proposed: 'as Vaquero proposes it',
} as const;
