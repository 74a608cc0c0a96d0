import completionOf from '@bomb.sh/tab/commander';
import { version } from '@vaquero/contracts/version';
import { Command } from 'commander';
import type { Perform } from './command.ts';
import { groups } from './commands.ts';
import { manual, usageOf } from './manual.ts';
import { wrapped } from './wrapped.ts';

const purpose = 'Builds commits, moves tested builds between environments, and goes back.';

/** Collects the commands; `perform` makes the context when one is chosen. */
export function makeProgram(perform: Perform): Command {
  const program = new Command('vaquero')
    .description(purpose)
    .version(`vaquero ${version}`, '-V, --version', 'which version this is')
    .helpCommand(false)
    // What an option says is wrapped in its column as long as a few words have room there.
    .configureHelp({ minWidthToWrap: 20, commandUsage: usageOf })
    .showSuggestionAfterError()
    .exitOverride();
  for (const { commands } of groups)
    for (const one of commands)
      program.addCommand(one.declare(perform).copyInheritedSettings(program));
  program
    .command('manual')
    .description('every command and its options, as one page')
    .action(() => {
      process.stdout.write(manual(program));
    });
  completionOf(program, { completionCommandName: 'completion' });
  program.configureHelp({ formatHelp: (_program, { helpWidth }) => overview(helpWidth ?? 80) });
  return program;
}

/** The help of the whole: what one does first with a line each, the names of the rest. */
function overview(width: number): string {
  const names = groups.flatMap(({ isFirst, commands }) =>
    isFirst ? commands.map(({ name }) => name.length) : [],
  );
  const column = Math.max(...names) + 2;
  const parts = groups.map(({ heading, isFirst, commands }) =>
    isFirst
      ? `${heading}:\n${commands.map(({ name, says }) => wrapped(`  ${name.padEnd(column)}${says}`, width)).join('\n')}`
      : wrapped(`${heading}: ${commands.map(({ name }) => name).join(', ')}`, width),
  );
  const further = [
    'vaquero COMMAND --help shows an example, vaquero manual says everything.',
    'For your shell: vaquero completion bash, zsh or fish.',
  ];
  return [
    wrapped(purpose, width),
    '',
    ...parts,
    '',
    ...further.map((line) => wrapped(line, width)),
    '',
  ].join('\n');
}
