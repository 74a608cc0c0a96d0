import { exitCodes, groups, makeProgram, ownOptions, usageOf } from '@vaquero/cli';

/** The page of all commands, made from their declarations. */
export function commandsPage(): string {
  const program = makeProgram(() => Promise.resolve());
  const parts = groups.map(({ heading, commands }) => {
    const rows = commands.map(({ name, examples }) => {
      const command = program.commands.find((one) => one.name() === name);
      if (command === undefined) throw new Error(`no command is called ${name}`);
      const own = ownOptions(command).map(
        (option) => `\`${option.flags.replaceAll('|', '\\|')}\` ${option.description}`,
      );
      const said = [command.description(), ...own].join('<br>');
      return `| \`${usageOf(command)}\` | ${said} | ${examples.map((one) => `\`vaquero ${one}\``).join('<br>')} |`;
    });
    return `## ${heading}\n\n| command | what it does | such as |\n|---|---|---|\n${rows.join('\n')}`;
  });
  const codes = Object.values(exitCodes).map(({ code, when }) => `| ${code} | ${when} |`);
  return `# Every command

This page is made from the commands' own declarations; \`vaquero COMMAND --help\` and \`vaquero manual\` say the same. Each takes \`--address\`,
\`--token\`, \`--json\` (the reply, or the refusal, as the service sent it) and, where it asks first, \`--yes\`. Address and token are found on the
command line, in the environment (\`VAQUERO_ADDRESS\`, \`VAQUERO_TOKEN\`), in \`.git/vaquero.json\` of the working copy, which \`vaquero make --here\` writes,
and in your sign-in, in this order; \`vaquero who\` says which.

${parts.join('\n\n')}

## Exit codes

| code | when |
|---|---|
${codes.join('\n')}

The code of each refusal is in [refusals.md](refusals.md).
`;
}
