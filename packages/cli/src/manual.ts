import type { Command, Option } from 'commander';
import { groups } from './commands.ts';
import { exitCodes } from './exit-codes.ts';

/** Everything that the declarations say, as one page of Markdown; a page for man is made from it. */
export function manual(program: Command): string {
  const parts = groups.map(
    ({ heading, commands }) =>
      `## ${heading}\n\n${commands.map(({ name, examples }) => commandInWords(program, name, examples)).join('\n\n')}`,
  );
  return `# vaquero(1) -- ${program.description()}

## Synopsis

\`vaquero COMMAND [ARGUMENTS] [OPTIONS]\`

Every command takes \`--address URL\` and \`--json\` (the reply as the service sent it). The address and the token are found on the command line, in \`VAQUERO_ADDRESS\` and \`VAQUERO_TOKEN\`, in the file \`.git/vaquero.json\` of the working copy (\`vaquero make --here\` writes it), and in your sign-in, in this order; \`vaquero who\` says which.

${parts.join('\n\n')}

## Exit codes

${Object.values(exitCodes)
  .map(({ code, when }) => `* \`${code}\`: ${when}`)
  .join('\n')}
`;
}

function commandInWords(program: Command, name: string, examples: readonly string[]): string {
  const command = program.commands.find((one) => one.name() === name);
  if (command === undefined) throw new Error(`no command is called ${name}`);
  const options = ownOptions(command).map(
    ({ flags, description }) => `* \`${flags}\`: ${description}`,
  );
  return [
    `### ${usageOf(command)}`,
    `${sentence(command.description())} Such as ${examples.map((one) => `\`vaquero ${one}\``).join(' and ')}.`,
    ...(options.length === 0 ? [] : [options.join('\n')]),
  ].join('\n\n');
}

const everywhere = new Set(['--address', '--token', '--json', '--yes']);

/** The options of a command beside those of every command. */
export function ownOptions(command: Command): readonly Option[] {
  return command.options.filter((option) => !everywhere.has(option.long ?? ''));
}

/** How a command is written: its name and its arguments. */
export function usageOf(command: Command): string {
  const words = command.registeredArguments.map((argument) => {
    const said =
      `${argument.argChoices?.join(' or ') ?? argument.name()}${argument.variadic ? '…' : ''}`.toUpperCase();
    return argument.required ? said : `[${said}]`;
  });
  return ['vaquero', command.name(), ...words].join(' ');
}

function sentence(text: string): string {
  return `${text[0]?.toUpperCase()}${text.slice(1)}.`;
}
