import { type Digest, isId, readDigest, readPullRequestName } from '@vaquero/core';
import { z } from 'zod';

const text = z.string().min(1).max(255);
/** By the id that it was given here. */
const id = text.refine(isId, 'is no id');

/** What parameters of paths are, by the name that they have in every path. One that is something else names nothing. */
export const pathParams = {
  project: text,
  environment: text,
  build: z.coerce
    .number()
    .int()
    .positive()
    .max(2 ** 31),
  deploy: z.coerce
    .number()
    .int()
    .positive()
    .max(2 ** 31),
  /** By its number: `pr-3` in the path. */
  pullRequest: text.transform((name, context) => {
    const number = readPullRequestName(name);
    if (number !== undefined) return number;
    context.addIssue({ code: 'custom', message: 'is not like pr-3' });
    return z.NEVER;
  }),
  variable: text,
  runner: text,
  edge: text,
  token: id,
  person: text,
  session: text,
  invitation: id,
  group: text,
  service: text,
  attempt: id,
  upload: id,
  pictures: id,
  page: z.coerce.number().int().min(0).max(1000),
  side: z.enum(['before', 'after', 'difference']),
  digest: text.transform((name, context): Digest => {
    const digest = readDigest(name);
    if (digest !== undefined) return digest;
    context.addIssue({ code: 'custom', message: 'is no digest' });
    return z.NEVER;
  }),
} as const;

type NamesIn<Path extends string> = Path extends `${string}:${infer Name}/${infer Rest}`
  ? Name | NamesIn<`/${Rest}`>
  : Path extends `${string}:${infer Name}`
    ? Name
    : never;

/** The names of a path's parameters. */
export type ParamName<Path extends string> = NamesIn<Path> & keyof typeof pathParams;

/** What the parameters of a path are once they are read. */
export type ParamsOf<Path extends string> = {
  readonly [Name in ParamName<Path>]: z.output<(typeof pathParams)[Name]>;
};

/** What a client fills a path with. */
export type FilledBy<Path extends string> = {
  readonly [Name in NamesIn<Path>]: string | number;
};

/** The names of a path's parameters, in their order. */
export function paramNames(path: string): readonly (keyof typeof pathParams)[] {
  const names = [...path.matchAll(/:([a-z]+)/gi)].map(([, name]) => name ?? '');
  return names.filter((name): name is keyof typeof pathParams => Object.hasOwn(pathParams, name));
}
