import { cpSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { type BuildReply, buildRoutes } from '@vaquero/contracts';
import { isOpen } from '@vaquero/core';
import { until } from '../support/place.ts';
import type { TestService } from '../support/service.ts';
import { type Kind, landmark } from './kind.ts';
import { making } from './templates.ts';

/** What became of the first push of one kind. */
export interface Row {
  readonly kind: string;
  /** The steps that were proposed. */
  readonly proposed: string;
  readonly built: string;
  readonly landmark: string;
  readonly seconds: number;
  readonly cause: string;
  readonly isRight: boolean;
  readonly saw: string;
  /** The end of its log. */
  readonly log: string;
}

/** Makes a project of a kind, pushes it to a project of its own, and looks at what came of it. */
export async function firstPush(service: TestService, kind: Kind, name: string): Promise<Row> {
  const made = await service.project(name, kind.folder);
  const folder = join(service.state, 'made', name);
  mkdirSync(folder, { recursive: true });
  try {
    await kind.make(making(folder));
  } catch (error) {
    // What the registries of this machine do not have cannot be tried: it is told, and counts as wrong.
    const said = error instanceof Error ? error.message : String(error);
    return notMade(kind, said);
  }
  cpSync(folder, made.copy.folder, { recursive: true, verbatimSymlinks: true });
  await made.copy.commit('The first push', {});
  const begun = Date.now();
  const pushed = await made.copy.push(made.remote);
  if (!pushed.ok) throw new Error(`${kind.name}: ${pushed.said}`);
  let seen: BuildReply | undefined;
  const build = await until(
    `${kind.name} is built`,
    async () => {
      seen = await service.operator
        .call(buildRoutes.showBuildRoute, { params: { project: name, build: 1 } })
        .catch(() => undefined);
      return seen !== undefined && !isOpen(seen.state) && seen;
    },
    { seen: () => seen?.state, withinMs: 600_000 },
  );
  const log = await service.operator.call(buildRoutes.logLinesRoute, {
    params: { project: name, build: 1 },
    query: { limit: 5000 },
  });
  const seconds = Math.round((Date.now() - begun) / 100) / 10;
  const site = build.recipe?.recipe.serve?.site ?? null;
  const found = build.artifact !== null && (await showsLandmark(service, name));
  const cause = build.failure === null ? '' : `${build.failure.what} ${build.failure.why}`;
  const telling = build.tellingLine === null ? '' : ` | ${build.tellingLine.text}`;
  return {
    kind: kind.name,
    proposed: build.recipe?.recipe.steps.map((step) => step.name).join(', ') ?? 'none',
    built: build.state === 'passed' ? (site ?? 'nothing') : build.state,
    landmark: found ? 'found' : '-',
    seconds,
    cause: build.explanation?.cause ?? build.failure?.what ?? '',
    isRight: isRight(kind, build, found),
    saw: `${build.state}, site ${site}, landmark ${found}, ${seconds} s ${cause}${telling}`,
    log: log.lines
      .filter((_, place) => place < 16 || place >= log.lines.length - 24)
      .map((line) => `    ${line.step}: ${line.text}`)
      .join('\n'),
  };
}

function notMade({ name: kind }: Kind, said: string): Row {
  const why = /(?:notarget|404|error|ERR)\S* (.*)/i.exec(said)?.[1] ?? said;
  const cause = `could not be made: ${why.slice(0, 120)}`;
  const none = { proposed: '-', built: '-', landmark: '-', seconds: 0, isRight: false };
  return { kind, ...none, cause, saw: cause, log: said };
}

async function showsLandmark(service: TestService, name: string): Promise<boolean> {
  const page = await service.page(`staging.${name}.localhost:${service.edgePort}`);
  return page.status === 200 && page.text.includes(landmark);
}

function isRight({ becomes }: Kind, build: BuildReply, found: boolean): boolean {
  if (becomes === 'nothing') return build.state === 'passed' && build.artifact === null;
  if (becomes === 'choice')
    return build.reason?.reason === 'recipe-missing' && (build.reason.candidates?.length ?? 0) > 1;
  if ('fails' in becomes) return becomes.fails.test(build.failure?.what ?? '');
  return found && build.recipe?.recipe.serve?.site === becomes.site;
}
