import { sign } from 'node:crypto';
import type { admissionRoutes } from '@vaquero/contracts';
import {
  admissionPath,
  later,
  type Pass,
  passLastsMs,
  passText,
  returnPath,
  writePass,
} from '@vaquero/core';
import type { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { type Caller, maySee } from '../people/caller.ts';
import { siteOfHost } from './site-of-host.ts';

type Wish = z.output<typeof admissionRoutes.passRoute.body>;
type Given = z.output<typeof admissionRoutes.passRoute.reply>;

/**
 * Gives who may read a project a pass for one of its sites. It is bound to the cookie of the visitor who was sent here:
 * in another browser it opens nothing. Refuses: not-admitted, whether there is such a site or not.
 */
export async function givePass(
  deps: Deps,
  caller: Caller,
  { host: asked, visitor, to }: Wish,
): Promise<Given> {
  const site = await siteOfHost(deps, asked);
  if (site === undefined || !site.projectIds.some((id) => maySee(caller, id)))
    return refused({ code: 'not-admitted', host: asked });
  const until = later(deps.clock(), passLastsMs);
  const pass: Pass = { host: site.host, visitor, person: caller.name, until };
  const signature = sign(null, Buffer.from(passText(pass)), deps.keys.passing);
  const word = writePass(pass, signature.toString('base64url'));
  const way = new URLSearchParams({ word, to: returnPath(to) });
  return {
    pass: word,
    until,
    address: visitor === null ? null : `${site.address}${admissionPath}enter?${way}`,
  };
}
