import type { RoutingEntry, RoutingTable } from '@vaquero/contracts';
import { endedInWords, schemeOf } from '@vaquero/core';

function page(title: string, text: string): string {
  return `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${title}</title><style>:root{color-scheme:light dark}body{font:16px/1.5 Georgia,serif;max-width:34em;margin:18vh auto;padding:0 1em}h1{font-size:1.35em;font-weight:600}</style><h1>${title}</h1><p>${text}</p>`;
}

function safe(text: string): string {
  return text.replace(/[&<>"']/g, (letter) => `&#${letter.charCodeAt(0)};`);
}

/** The page of an environment that serves nothing yet: it says so, and what it waits for. */
export function servesNothing(entry: RoutingEntry): string {
  return page(
    'Nothing is served here yet.',
    `This is ${safe(entry.environment)} of ${safe(entry.project)}. It waits for ${safe(entry.waitsFor)}.`,
  );
}

/** What the page of an ended environment tells its visitor. */
interface ToldOfEnd {
  /** Whether it may name people: a member sees it. */
  readonly isMember: boolean;
  /** The console, where its history is read. */
  readonly console: string | null;
  /** Addresses at which this visitor finds the same bytes. */
  readonly answersAt: readonly string[];
}

/** The page of an environment that has ended: when, why, by whom, and where its bytes still answer for whoever asks. */
export function hasEnded(
  { environment, project, at, because, by }: RoutingTable['ended'][string],
  { isMember, console, answersAt }: ToldOfEnd,
): string {
  const ended = endedInWords(because);
  const why = isMember && by !== null ? `${ended} (${safe(by)})` : ended;
  const when = new Date(at).toISOString().slice(0, 16).replace('T', ' ');
  const links = answersAt.map((host) => {
    const address = safe(`${schemeOf(host)}://${host}/`);
    return `<a href="${address}">${safe(host)}</a>`;
  });
  const still =
    links.length === 0 ? '' : ` The same bytes still answer at ${links.join(' and at ')}.`;
  const history =
    console === null
      ? 'the project’s history'
      : `<a href="${safe(`${console}/p/${project}/history/${environment}`)}">the project’s history</a>`;
  return page(
    'This has ended.',
    `${safe(environment)} of ${safe(project)} ended on ${when} UTC: ${why}.${still} What it served and who made it stays in ${history}, for members.`,
  );
}

/** The page of a host that is called otherwise, for whoever does not follow by themselves. */
export function movedTo(address: string): string {
  return page(
    'This has another address.',
    `It is <a href="${safe(address)}">${safe(address)}</a> now.`,
  );
}

/** The page of a host name that stands for nothing. */
export function noSuchHost(host: string): string {
  return page(
    'No site has this name.',
    `Nothing is known here as ${safe(host.slice(0, 255)) || 'this address'}.`,
  );
}

/** The page of an artifact's own address whose name cannot be asked for. */
export const notLookedUp = page(
  'This address cannot be looked up now.',
  'It is the own address of a build, and the service that knows those was not reached. Environments answer meanwhile; try again in a moment.',
);

/** The page for whoever is not admitted. */
export function notAdmitted(why: string): string {
  return page('This site is not for everybody.', safe(why));
}

/** The page for an address that a site does not have. */
export function notFound(status: 400 | 404): string {
  return status === 404
    ? page('There is no such page.', 'The address may be mistyped, or the page was taken away.')
    : page('This address cannot be read.', 'It holds a percent sign that stands for nothing.');
}

/** The page for a fault of our own. */
export function trouble(damaged: boolean): string {
  return page(
    'This page cannot be shown now.',
    damaged
      ? 'Its file in the store is damaged, and other bytes are not sent in its place.'
      : 'Something failed on our side.',
  );
}
