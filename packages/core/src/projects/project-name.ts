import { allow, type Decision, refuse } from '../decision.ts';

/** A project's name: also the first label of its production host. */
export type ProjectName = string & { readonly brand: 'ProjectName' };

/** Labels that name something else under one of the base names. */
const reserved = new Set(['artifacts', 'www', 'api', 'git', 'console', 'localhost', 'vaquero']);

const rule =
  '2 to 40 of a–z, 0–9 and single hyphens, beginning with a letter and not ending in a hyphen';

/**
 * Reads a project name. Shape: a host label that leaves room for the labels before it.
 * Refuses: name-invalid.
 */
export function readProjectName(text: string): Decision<ProjectName> {
  const fits = /^[a-z](?:-?[a-z0-9])+$/.test(text) && text.length <= 40;
  if (!fits) return refuse({ code: 'name-invalid', name: text, rule });
  if (reserved.has(text)) {
    return refuse({ code: 'name-invalid', name: text, rule: 'a name that is not reserved' });
  }
  return allow(text as ProjectName);
}

/** Names near a taken one that are not among the taken, best first, three at most. */
export function freeNamesNear(name: string, taken: ReadonlySet<string>): readonly string[] {
  const stem = name.slice(0, 36);
  const offers = ['site', 'web', '2', '3', '4'].map((ending) => `${stem}-${ending}`);
  return offers.filter((offer) => !taken.has(offer) && readProjectName(offer).ok).slice(0, 3);
}
