import type { environmentRoutes } from '@vaquero/contracts';
import { type DeliveryMap, type Instant, isAmong, ruleNamed, whoMay } from '@vaquero/core';
import { and, desc, eq, isNull } from 'drizzle-orm';
import type { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { builds, environments, intakes, projects } from '../database/tables.ts';
import { mapOf } from '../map/map-rows.ts';
import { actingOn, type Caller, maySee } from '../people/caller.ts';

type Offers = z.output<typeof environmentRoutes.offersRoute.reply>['offers'];

const mostRead = 200;
const mostTold = 20;

/** What passed and waits for a word that the caller may give, wherever; the newest first. */
export async function offersTo(deps: Deps, caller: Caller): Promise<Offers> {
  const rows = await deps.db
    .select({
      project: projects,
      environment: environments,
      build: builds.number,
      subject: builds.subject,
      since: builds.endedAt,
    })
    .from(intakes)
    .innerJoin(
      environments,
      and(eq(environments.id, intakes.environmentId), eq(environments.living, true)),
    )
    .innerJoin(projects, and(eq(projects.id, environments.projectId), isNull(projects.endedAt)))
    .innerJoin(builds, eq(builds.id, intakes.buildId))
    .where(eq(intakes.state, 'offered'))
    .orderBy(desc(builds.endedAt))
    .limit(mostRead);
  const maps = new Map<string, Promise<DeliveryMap>>();
  const offers: Offers = [];
  for (const { project, environment, since, ...offer } of rows) {
    if (offers.length === mostTold) break;
    if (!maySee(caller, project.id)) continue;
    const known = maps.get(project.id) ?? mapOf(deps.db, project);
    maps.set(project.id, known);
    const rule = ruleNamed(await known, environment.rule);
    const who = whoMay(rule?.may ?? {}, environment.place, 'promote');
    if (isAmong(who, actingOn(caller, project, environment), project.id))
      offers.push({
        ...offer,
        project: project.name,
        environment: environment.name,
        since: since as Instant,
      });
  }
  return offers;
}
