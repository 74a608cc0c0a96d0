import type { Finding, Severity } from './finding.ts';

/** Rules of the inspection: how bad a breach is, and what to do about it. */
export const inspectionRules = {
  'secret-value': [
    'error',
    'Take the value out of what the build writes, and set a new one: whoever saw the output knows it.',
  ],
  'key-format': ['error', 'Remove it, and make the key void if it was ever real.'],
  'lfs-pointer': [
    'error',
    'Fetch the real file before the build (git lfs), or commit it as it is.',
  ],
  'not-inspected': [
    'error',
    'Make it simpler: what nobody can look through in time, nobody can vouch for.',
  ],
  'unbuilt-source': [
    'error',
    'Publish the folder that the build writes instead of the sources: only a bundler serves such a file.',
  ],
  'broken-asset': ['error', 'Correct the reference, or have the build write the file.'],
  'broken-link': ['warning', 'Correct the link, or write the page.'],
  'broken-anchor': ['note', 'Correct the part behind #, or give the target that id.'],
  'rule-circle': ['error', 'Let one of the moves lead to the page that is meant.'],
  'rule-nowhere': ['error', 'Let it lead to a page that is published, or take the rule out.'],
  'rule-shadowed': [
    'warning',
    'Take it out, or let it stand before the one that takes its addresses.',
  ],
  'immutable-changed': [
    'error',
    'Give the file a name that changes with its bytes, or take its pattern out of serve.immutable.',
  ],
  'kept-long': [
    'warning',
    'Let browsers ask anew for pages: keep only files whose name changes with their bytes.',
  ],
  'private-address': [
    'warning',
    'Visitors cannot reach it: use the public address, or a path of this site.',
  ],
  'not-written': [
    'warning',
    'It came with the commit and no step wrote it: remove old output from the repository.',
  ],
  'case-clash': [
    'warning',
    'Rename one: systems that do not tell upper from lower case keep only one.',
  ],
  'large-file': ['warning', 'Make it smaller, or serve it from a place made for large files.'],
  'source-map': [
    'note',
    'Leave it if visitors may read the source; otherwise turn source maps off.',
  ],
  shrank: [
    'warning',
    'Look at the output: much of it may be missing. If it is meant, build it again and say so (vaquero build-again PROJECT BUILD --meant).',
  ],
  grew: ['note', 'Look at what was added.'],
} as const satisfies Readonly<Record<string, readonly [Severity, string]>>;
export type InspectionRule = keyof typeof inspectionRules;

/** Rules whose findings keep an artifact from going live, unless a project says otherwise. */
export const holdingByDefault: readonly InspectionRule[] = [
  'secret-value',
  'key-format',
  'lfs-pointer',
  'not-inspected',
  'unbuilt-source',
  'broken-asset',
  'immutable-changed',
  'shrank',
];

/** A finding against a rule, as bad as the rule is, with its cure. */
export function finding(
  rule: InspectionRule,
  path: string,
  line: number | null,
  message: string,
): Finding {
  const [severity, cure] = inspectionRules[rule];
  return { rule, severity, message, path, line, cure };
}
