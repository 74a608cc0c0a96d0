import { controlFault, type RefRule } from '@vaquero/core';
import { z } from 'zod';

/** A text without control characters; `text` may have tabs and line ends. */
export function written(kind: 'line' | 'text') {
  return z.string().superRefine((value, context) => {
    const message = controlFault(value, kind);
    if (message !== null) context.addIssue({ code: 'custom', message });
  });
}

/** One or several of something, as people write them. */
export function oneOrMore<Item extends z.ZodType<string>>(item: Item, most: number) {
  return z
    .union([item, z.array(item).min(1).max(most)])
    .transform((one): readonly string[] => (typeof one === 'string' ? [one] : one));
}

const names = oneOrMore(written('line').min(1).max(250), 64);
/** Refs, by the same words in recipes and maps. */
export const refRule = z
  .strictObject({
    branch: names.default([]),
    tag: names.default([]),
    'proposed-into': names.default([]),
  })
  .transform(
    (rule): RefRule => ({
      branch: rule.branch,
      tag: rule.tag,
      proposedInto: rule['proposed-into'],
    }),
  )
  .describe('Refs by branch, tag or target of a pull request; * stands for any characters.');
