import { buildRoutes, pathOf } from '@vaquero/contracts';
import { type Context, command, giveFound, whole } from '../command.ts';
import { safe, tone } from '../output.ts';

/** Writes a build's log: the whole of it as it is, or lines of it. */
export const log = command({
  name: 'log',
  says: 'a build’s whole log, or lines of it',
  examples: [
    'log timetable 218',
    'log timetable 218 --find error',
    'log timetable 218 --step unit',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<number>', 'the build', whole)
      .option('--step <name>', 'only what one step said')
      .option('--find <text>', 'only lines that hold a text'),
  run: (context, [project, build], { step, find }) =>
    step === undefined && find === undefined && !context.json
      ? writeLog(context, project, build)
      : writeLines(context, project, build, {
          ...(step === undefined ? {} : { step }),
          ...(find === undefined ? {} : { find }),
        }),
});

async function writeLog(context: Context, project: string, build: number): Promise<void> {
  const response = await fetch(
    `${context.client.address}${pathOf(buildRoutes.buildLogRoute, { project, build })}`,
    { headers: context.client.headers, signal: context.signal },
  );
  // The typed client says what is wrong with a call that the plain one was refused.
  if (!response.ok)
    await context.client.call(buildRoutes.showBuildRoute, { params: { project, build } });
  const text = await response.text();
  context.io.write(text.endsWith('\n') || text === '' ? text : `${text}\n`);
}

async function writeLines(
  context: Context,
  project: string,
  build: number,
  wanted: { readonly step?: string; readonly find?: string },
): Promise<void> {
  const reply = await context.client.call(buildRoutes.logLinesRoute, {
    params: { project, build },
    query: { ...wanted, limit: 5000 },
  });
  giveFound(context, reply, reply.lines.length, ({ lines, more }) => {
    const { io } = context;
    const width = Math.max(0, ...lines.map((line) => line.step.length));
    for (const line of lines)
      io.write(
        `${String(line.number).padStart(6)} ${tone(io, 'quiet', line.step.padEnd(width))}  ${safe(line.text)}\n`,
      );
    if (more) io.err('There are more: narrow it by --step or --find.');
    if (lines.length === 0) io.err('No line.');
  });
}
