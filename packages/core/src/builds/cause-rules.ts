/** A line that names a cause by itself, and what helps against it. `$1` stands for the rule's first group. */
export interface CauseRule {
  readonly name: string;
  readonly form: RegExp;
  readonly next: string;
}

/**
 * What compilers, package managers and test runners print at a cause, the most telling first. Data: each
 * has an example in its test.
 */
export const causeRules: readonly CauseRule[] = [
  {
    name: 'lock file behind',
    form: /npm ci.* can only install (?:packages )?(?:with an existing|when your) package/,
    next: 'Run npm install where you work, and commit the package-lock.json it writes.',
  },
  {
    name: 'no lock file',
    form: /ERR_PNPM_OUTDATED_LOCKFILE|Your lockfile needs to be updated|ERR_PNPM_NO_LOCKFILE/,
    next: 'Install where you work and commit the lock file it writes.',
  },
  {
    name: 'dependencies that do not fit',
    form: /npm (?:ERR!|error) code ERESOLVE|unable to resolve dependency tree/,
    next: 'Choose versions in package.json that fit each other, install, and commit both files.',
  },
  {
    name: 'no such package',
    form: /npm (?:ERR!|error) 404 +(?:Not Found|'([^']+)' is not in)|ERR_PNPM_FETCH_404/,
    next: 'Correct the package’s name or version in package.json.',
  },
  {
    name: 'no network',
    form: /\b(?:ENOTFOUND|EAI_AGAIN|ENETUNREACH)\b|Temporary failure in name resolution|Network is unreachable/,
    next: 'Steps reach nothing unless they say network: out; add that to this step, or fetch in an earlier one.',
  },
  {
    name: 'module not there',
    form: /Cannot find (?:module|package) '([^']+)'/,
    next: 'Add $1 to the dependencies, or, if it is a file, to what the step reads.',
  },
  {
    name: 'import not resolved',
    form: /(?:Could not resolve|Rollup failed to resolve import|Failed to resolve import) "([^"]+)"/,
    next: 'Correct the import of $1, or name the file under reads.',
  },
  {
    name: 'python module not there',
    form: /ModuleNotFoundError: No module named '([^']+)'/,
    next: 'Install $1 in an earlier step that writes it into the tree.',
  },
  {
    name: 'program not there',
    form: /(?:^|[\s:])([\w.-]+): (?:command )?not found\b/,
    next: 'The machine has no $1: install it in an earlier step, or ask the operator for it.',
  },
  {
    name: 'written where it may not',
    form: /Read-only file system|\bEROFS\b/,
    next: 'Name the folder under writes; what earlier steps wrote cannot be changed.',
  },
  {
    name: 'disk or quota full',
    form: /No space left on device|\bENOSPC\b|File size limit exceeded/,
    next: 'Write less, or ask the operator for more room.',
  },
  {
    name: 'memory of the runtime',
    form: /JavaScript heap out of memory|MemoryError\b|Cannot allocate memory/,
    next: 'Work on less at once, or give the runtime more of the memory that a build may have.',
  },
  {
    name: 'types do not fit',
    form: /\berror TS\d+:|^\S+\(\d+,\d+\): error /,
    next: 'Correct the type at the place it names.',
  },
  {
    name: 'syntax',
    form: /\b(?:SyntaxError|ParseError|YAMLException|Unexpected token)\b/,
    next: 'Correct the syntax at the place it names.',
  },
  {
    name: 'file not there',
    form: /ENOENT: no such file or directory, \w+ '([^']+)'|FileNotFoundError.*'([^']+)'|(?:^|[\s:])([^\s:]+): No such file or directory/,
    next: 'Commit $1, or, if the step says what it reads, name it there.',
  },
  {
    name: 'a test that failed',
    form: /^\s*(?:not ok \d+|FAIL\b|✖ |✗ |× |--- FAIL:|FAILED |AssertionError)/,
    next: 'Run that test where you work, and correct what it found.',
  },
  {
    name: 'a template that failed',
    form: /(?:Template render error|TemplateSyntaxError|error calling |failed to render)/i,
    next: 'Correct the template at the place it names.',
  },
  {
    name: 'no such script',
    form: /npm (?:ERR!|error) Missing script: "([^"]+)"/,
    next: 'Add the script $1 to package.json, or change the step’s command.',
  },
];

/** The first rule that a line meets, with its advice filled in. */
export function causeOf(line: string): { readonly name: string; readonly next: string } | null {
  for (const { name, form, next } of causeRules) {
    const match = form.exec(line);
    if (match === null) continue;
    const group = match.slice(1).find((each) => each !== undefined) ?? 'it';
    return { name, next: next.replace('$1', group) };
  }
  return null;
}
