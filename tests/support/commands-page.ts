import { makeProgram } from '@vaquero/cli';

/** The page of all commands, made from their declarations. */
export function commandsPage(): string {
  const program = makeProgram(() => Promise.resolve());
  const rows = program.commands.map((command) => {
    const words = command.registeredArguments.map((argument) => {
      const said = `${argument.name()}${argument.variadic ? '…' : ''}`
        .toUpperCase()
        .replaceAll('|', ' or ');
      return argument.required ? said : `[${said}]`;
    });
    const own = command.options
      .filter((option) => !everywhere.has(option.long ?? ''))
      .map((option) => `\`${option.flags.replaceAll('|', '\\|')}\` ${option.description}`);
    return `| \`${['vaquero', command.name(), ...words].join(' ')}\` | ${[command.description(), ...own].join('<br>')} |`;
  });
  return `# Every command

This page is made from the commands' own declarations; \`vaquero COMMAND --help\` says the same. Each takes \`--address\`, \`--token\`,
\`--json\` (the reply as the service sent it) and, where it changes an environment, \`--yes\`. Exit codes: 0 done, 1 fault, 2 wrong
use, 3 refused, 4 not reached, 5 moved but not confirmed by every edge, 130 interrupted; each refusal's own is in [refusals.md](refusals.md).

| command | what it does |
|---|---|
${rows.join('\n')}
`;
}

const everywhere = new Set(['--address', '--token', '--json', '--yes']);
