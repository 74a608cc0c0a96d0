/** What is known of a step when its log is read: how it came that it could not do what it says. */
export interface StepSituation {
  readonly network: 'none' | 'out';
  /** The family whose rule lets nothing of outsiders reach out, where that is so here. */
  readonly shutInBy: string | null;
  /** Packages that the project's manifest depends on; a program of theirs is there once they are installed. */
  readonly dependencies: readonly string[];
  /** Whether a step that installs them comes before it. */
  readonly isInstalled: boolean;
  /** Who installs them, if anybody does. */
  readonly manager: string | null;
  /** Names that the step is given. */
  readonly given: readonly string[];
}

/** A line that names a cause by itself, and what helps against it. `$1` stands for the rule's first group. */
export interface CauseRule {
  readonly name: string;
  readonly form: RegExp;
  readonly next: string | ((group: string, situation: StepSituation) => string);
  /** What it is where the situation tells more than the line. */
  readonly named?: (group: string, situation: StepSituation) => string | null;
}

/** Programs that Debian has, by the package that brings them, where it is called otherwise. */
const debianPackages: Readonly<Record<string, string>> = {
  hugo: 'hugo',
  jekyll: 'jekyll',
  bundle: 'ruby-bundler',
  ruby: 'ruby',
  mkdocs: 'mkdocs',
  'sphinx-build': 'python3-sphinx',
  pelican: 'pelican',
  pip: 'python3-pip',
  pip3: 'python3-pip',
  python: 'python-is-python3',
  make: 'make',
  gcc: 'gcc',
  'g++': 'g++',
  cmake: 'cmake',
  go: 'golang-go',
  cargo: 'cargo',
  php: 'php-cli',
  composer: 'composer',
  pandoc: 'pandoc',
  asciidoctor: 'asciidoctor',
  convert: 'imagemagick',
  rsync: 'rsync',
  jq: 'jq',
  zip: 'zip',
  unzip: 'unzip',
  curl: 'curl',
  wget: 'wget',
};

/** Programs of packages that are called otherwise than these. */
const programsOf: Readonly<Record<string, string>> = {
  tsc: 'typescript',
  ng: '@angular/cli',
  eleventy: '@11ty/eleventy',
  docusaurus: '@docusaurus/core',
  'vue-cli-service': '@vue/cli-service',
  rsbuild: '@rsbuild/core',
  nuxi: 'nuxt',
  'svelte-kit': '@sveltejs/kit',
  'webpack-cli': 'webpack-cli',
};

/** Whether a program is one of the project's own dependencies. */
function isDependency(program: string, { dependencies }: StepSituation): boolean {
  return dependencies.includes(programsOf[program] ?? program);
}

/**
 * What compilers, package managers and test runners print at a cause, the most telling first. Data: each
 * has what a real program printed as an example in its test.
 */
export const causeRules: readonly CauseRule[] = [
  {
    name: 'lock file behind',
    form: /npm ci.* can only install (?:packages )?(?:with an existing|when your) package|Your lock file needs to be updated|The lockfile would have been modified by this install|ERR_PNPM_OUTDATED_LOCKFILE|Your lockfile needs to be updated/,
    next: 'Install where you work, and commit the lock file that it writes.',
  },
  {
    name: 'no lock file',
    form: /ERR_PNPM_NO_LOCKFILE|The package-lock\.json file was created with an old version|requires an existing npm-shrinkwrap|npm ci. command can only install with an existing package-lock/,
    next: 'Install where you work and commit the lock file it writes.',
  },
  {
    name: 'another version of the package manager',
    form: /packageManager": "((?:yarn|pnpm|npm)@[\w.-]+)|configured to use v([\w.]+) of (?:pnpm|yarn)|ERR_PNPM_BAD_PM_VERSION/,
    next: (version) =>
      `Say which one under tools, such as tools: {${version.replace('@', ': ')}}, or let the proposal do it.`,
  },
  {
    name: 'another Node',
    form: /engine "node" is incompatible.*Expected version "([^"]+)"|ERR_PNPM_UNSUPPORTED_ENGINE|requires Node\.js version ([\d.]+)|Node\.js version v?([\d.]+\S*) is required|requires a minimum Node\.js version of v?([\d.]+)|Node\.js v[\d.]+ is not supported|npm (?:ERR!|error) code EBADENGINE/,
    next: 'Say which one: a file .nvmrc, engines in package.json, or tools: {node: 22} in the recipe.',
  },
  {
    name: 'dependencies that do not fit',
    form: /npm (?:ERR!|error) code ERESOLVE|unable to resolve dependency tree|ERR_PNPM_PEER_DEP_ISSUES/,
    next: 'Choose versions in package.json that fit each other, install, and commit both files.',
  },
  {
    name: 'no such package',
    form: /npm (?:ERR!|error) 404 +(?:Not Found|'([^']+)' is not in)|ERR_PNPM_FETCH_404|ERR_PNPM_NO_MATCHING_VERSION|npm (?:ERR!|error) code ETARGET|No matching version found for ([^\s.]+\S*)|No matching distribution found for (\S+)|Couldn't find package "([^"]+)"/,
    next: 'Correct the package’s name or version where it is named.',
  },
  {
    name: 'no network',
    form: /\b(?:ENOTFOUND|EAI_AGAIN|ENETUNREACH|ECONNREFUSED)\b|Temporary failure in name resolution|Network is unreachable|Could not resolve host/,
    named: (_, { network, shutInBy }) =>
      network === 'out' && shutInBy === null ? 'a host that does not answer' : null,
    next: (_, { network, shutInBy }) =>
      shutInBy !== null
        ? `What outsiders propose reaches nothing here: the map says so of ${shutInBy} (outsiders: {network: none}). Bring what the step fetches with the commit, or ask a maintainer to look at it.`
        : network === 'out'
          ? 'The step may reach the outside, but this host does not answer there: look whether its address is right, or ask the operator which registries the runner reaches.'
          : 'Steps reach nothing unless they say network: out; add that to this step, or fetch in an earlier one.',
  },
  {
    name: 'a variable that is not there',
    form: /(?:[Mm]issing|[Uu]ndefined|[Uu]nset|[Rr]equired|must (?:set|provide|define))[^\n]{0,40}?(?:env(?:ironment)?[ .]+(?:var\w*)?)\W*([A-Z][A-Z0-9_]{2,})\b|(?:[Ee]nv(?:ironment)? (?:var\w*)\W+)?\b([A-Z][A-Z0-9_]{3,})\b (?:env\w* var\w* )?(?:is (?:not (?:set|defined|provided)|missing|required|undefined)|must be (?:set|provided|defined))|^KeyError: '([A-Z][A-Z0-9_]{2,})'/,
    next: (name, { given }) =>
      given.includes(name)
        ? `The step is given ${name}, and the program does not find it: look how it reads it.`
        : `Set it (vaquero set PROJECT ${name}) and give it to the step: given: ${name}.`,
  },
  {
    name: 'module not there',
    form: /Cannot find (?:module|package) '([^']+)'/,
    named: (module, situation) =>
      isDependency(module.split('/')[0] ?? module, situation) && !situation.isInstalled
        ? 'nothing was installed'
        : null,
    next: (module, situation) =>
      isDependency(module.split('/')[0] ?? module, situation) && !situation.isInstalled
        ? notInstalled
        : `Add ${module} to the dependencies${situation.manager === 'pnpm' ? ' (pnpm links what package.json names, and nothing else)' : ''}, or, if it is a file, to what the step reads.`,
  },
  {
    name: 'import not resolved',
    form: /(?:Could not resolve|Rollup failed to resolve import|Failed to resolve import|Can't resolve|Cannot resolve) ["']([^"']+)["']/,
    next: 'Correct the import of $1, or name the file under reads.',
  },
  {
    name: 'import that is not exported',
    form: /(?<![\w$])([\w$]{1,80})["']? is not exported by "?[^\s"]|export ["']?([\w$]+)["']? .*was not found in|does not provide an export named '([^']+)'|No matching export in "[^"]+" for import "([^"]+)"/,
    next: 'Correct the import of $1 at the place it names, or export it there.',
  },
  {
    name: 'python module not there',
    form: /ModuleNotFoundError: No module named '([^']+)'/,
    next: 'Name $1 in requirements.txt, or install it in an earlier step that writes it into the tree.',
  },
  {
    name: 'program not there',
    form: /(?:^|[\s:])([\w.+-]+): (?:command )?not found\b|command not found: ([\w.+-]+)|spawn ([\w.+-]+) ENOENT/,
    named: (program, situation) =>
      isDependency(program, situation) ? 'nothing was installed' : null,
    next: (program, situation) => {
      if (isDependency(program, situation)) return notInstalled;
      const brings = debianPackages[program];
      return brings === undefined
        ? `The runner has no ${program}: install it in an earlier step, or ask the operator for it.`
        : `The runner has no ${program}: apt-get install ${brings} (the operator, on the runner’s machine).`;
    },
  },
  {
    name: 'written where it may not',
    form: /Read-only file system|\bEROFS\b/,
    next: 'Write inside the project’s folder, /tmp or the home; nothing else of the machine can be written to.',
  },
  {
    name: 'a file of an earlier step',
    form: /\bEACCES\b: permission denied, (?:open|copyfile|utime|chmod)|cannot create [^:]+: Permission denied/,
    next: 'What earlier steps wrote can be added to and taken away, not written to: copy the file first, or write beside it.',
  },
  {
    name: 'disk or quota full',
    form: /No space left on device|\bENOSPC\b|File size limit exceeded/,
    next: 'Write less, or ask the operator for more room.',
  },
  {
    name: 'memory of the runtime',
    form: /JavaScript heap out of memory|MemoryError\b|Cannot allocate memory|std::bad_alloc|memory allocation of \d+ bytes failed|java\.lang\.OutOfMemoryError|fatal error: (?:runtime: )?out of memory|\bENOMEM\b/,
    next: 'Work on less at once, or give the runtime more of the memory that a build may have (NODE_OPTIONS is not taken from sets; pass --max-old-space-size to node).',
  },
  {
    name: 'killed',
    form: /^Killed$|: line \d+: +\d+ Killed|\bSIGKILL\b|exit code:? 137\b|\bsignal: 9\b/,
    next: 'Something ended it from outside: most often the memory ran out. Let it work on less at once.',
  },
  {
    name: 'types do not fit',
    form: /\berror TS\d+:|^\S+\(\d+,\d+\): error /,
    next: 'Correct the type at the place it names.',
  },
  {
    name: 'syntax',
    form: /\b(?:SyntaxError|ParseError|YAMLException|Unexpected token|PARSE_ERROR)\b/,
    next: 'Correct the syntax at the place it names.',
  },
  {
    name: 'no such script',
    form: /npm (?:ERR!|error) Missing script: "([^"]+)"|ERR_PNPM_NO_SCRIPT|error Command "([^"]+)" not found|Couldn't find a script named "([^"]+)"/,
    next: 'Add the script $1 to package.json, or change the step’s command.',
  },
  {
    name: 'file not there',
    form: /ENOENT: no such file or directory, \w+ '([^']+)'|FileNotFoundError.*'([^']+)'|(?:^|[\s:])([^\s:]+): No such file or directory/,
    next: 'Commit $1, or, if the step says what it reads, name it there.',
  },
  {
    name: 'a test that failed',
    form: /^\s*(?:not ok \d+|FAIL\b|✖ (?!Build)|✗ (?!Build)|× (?!Build)|--- FAIL:|FAILED |AssertionError)/,
    next: 'Run that test where you work, and correct what it found.',
  },
  {
    name: 'a template that failed',
    form: /(?:Template render error|TemplateSyntaxError|error calling |failed to render|Error building site|Liquid (?:Exception|error))/i,
    next: 'Correct the template at the place it names.',
  },
];

const notInstalled =
  'It is a dependency of the project, and nothing was installed before: let a step that installs (npm ci) come before this one.';

/** Where a line alone is known. */
const unknownSituation: StepSituation = {
  network: 'none',
  shutInBy: null,
  dependencies: [],
  isInstalled: false,
  manager: null,
  given: [],
};

/** The first rule that a line meets, with its advice filled in. */
export function causeOf(
  line: string,
  situation: StepSituation = unknownSituation,
): { readonly name: string; readonly next: string } | null {
  for (const { name, form, next, named } of causeRules) {
    const match = form.exec(line);
    if (match === null) continue;
    const group = match.slice(1).find((each) => each !== undefined) ?? 'it';
    return {
      name: named?.(group, situation) ?? name,
      next: typeof next === 'string' ? next.replace('$1', group) : next(group, situation),
    };
  }
  return null;
}
