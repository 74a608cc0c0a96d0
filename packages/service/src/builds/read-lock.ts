import type { LockedPackages } from '@vaquero/core';
import { parseSyml } from '@yarnpkg/parsers';
import { parse as parseYaml } from 'yaml';
import { z } from 'zod';

const version = z.union([z.string(), z.number()]).transform(String);

/** package-lock.json, versions 2 and 3: packages by where they lie. Source: npm's package-lock-json(5). */
const npmLock = z.object({
  packages: z.record(z.string(), z.object({ version: version.optional() })),
});
/** pnpm-lock.yaml: packages by name and version, with what they are joined to in brackets. */
const pnpmLock = z.object({ packages: z.record(z.string(), z.unknown()).default({}) });
/** yarn.lock, of the first form and of the later ones, which are YAML: packages by what asks for them. */
const yarnLock = z.record(z.string(), z.object({ version: version.optional() }));

type Named = readonly (readonly [string, string])[];

const readers: Readonly<Record<string, (text: string) => Named>> = {
  'package-lock.json': (text) =>
    Object.entries(npmLock.parse(JSON.parse(text)).packages).flatMap(([path, one]) => {
      const place = path.lastIndexOf('node_modules/');
      // The project itself and its workspaces stand there too; they are sources, not installed.
      return place === -1 || one.version === undefined
        ? []
        : [[path.slice(place + 'node_modules/'.length), one.version] as const];
    }),
  'pnpm-lock.yaml': (text) =>
    Object.keys(pnpmLock.parse(parseYaml(text, { maxAliasCount: 0 })).packages).flatMap((key) =>
      nameAndVersion(key.replace(/^\//, '').replace(/\(.*$/, '')),
    ),
  'yarn.lock': (text) => {
    return Object.entries(yarnLock.parse(parseSyml(text))).flatMap(([key, one]) => {
      const [name] = nameAndVersion(key.split(',')[0]?.trim() ?? '')[0] ?? [];
      return name === undefined || one.version === undefined ? [] : [[name, one.version] as const];
    });
  },
};

/** Whether a path is that of a lock file whose packages can be told. */
export function isLock(path: string): boolean {
  return readers[path.split('/').at(-1) ?? ''] !== undefined;
}

/** The packages of a lock file by its name; none when it cannot be read, since then it tells nothing. */
export function readLock(path: string, text: string): LockedPackages {
  const versions = new Map<string, Set<string>>();
  for (const [name, one] of namedIn(path, text)) {
    const known = versions.get(name) ?? new Set();
    versions.set(name, known.add(one));
  }
  return versions;
}

function namedIn(path: string, text: string): Named {
  try {
    return readers[path.split('/').at(-1) ?? '']?.(text) ?? [];
  } catch {
    // Damaged, or of a version to come: the file stands among the changed ones all the same.
    return [];
  }
}

/** `@scope/name@1.2.3` in its two parts. */
function nameAndVersion(text: string): Named {
  const read = /^(@?[^@]+)@(.+)$/.exec(text);
  const [, name, rest] = read ?? [];
  return name === undefined || rest === undefined ? [] : [[name, rest]];
}
