import { useQuery } from '@tanstack/react-query';
import { buildRoutes, environmentRoutes, type ProjectSeen } from '@vaquero/contracts';
import { type BuildState, may, nameOfRef, type RefName } from '@vaquero/core';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useLocation } from 'react-router';
import type { z } from 'zod';
import { api } from '../http/api.ts';
import type { GlyphName } from '../parts/glyph.tsx';
import { type Telling, Toasts } from '../parts/toasts.tsx';
import { mine } from '../people/mine.ts';
import { projectsSeen } from '../projects/projects-seen.ts';
import { showOutside } from './outside.ts';

/** Asked for a little earlier than what was last seen: clocks are read before a transaction commits. */
const overlapMs = 15_000;
const mostAtOnce = 3;

/** Tells who is signed in of the end of what they began, and of what begins to wait for their word, on whatever page they are. */
export function Told() {
  const [tellings, setTellings] = useState<readonly Telling[]>([]);
  const { pathname } = useLocation();
  const gone = useCallback(
    (id: string) => setTellings((all) => all.filter((one) => one.id !== id)),
    [],
  );
  useNews((all) => {
    // Of much that came while nobody heard, what came last.
    const news = all.slice(-mostAtOnce);
    for (const one of news) showOutside(one);
    // Whoever looks at it sees it already.
    const elsewhere = news.filter(({ to }) => to !== pathname);
    setTellings((all) => [...all, ...elsewhere].slice(-mostAtOnce));
  });
  return <Toasts tellings={tellings} onGone={gone} />;
}

/** Hands over what is new since the page was opened, each once, the newest last. */
function useNews(tell: (news: readonly Telling[]) => void): void {
  const since = useRef<number | null>(null);
  const known = useRef(new Set<string>());
  const { data: ended } = useQuery({
    // Below the projects: asked again with whatever happens in any of them.
    queryKey: ['projects', 'ended builds'],
    queryFn: async ({ signal }) => {
      const query = { since: new Date(since.current ?? Date.now()).toISOString() };
      const reply = await api.call(buildRoutes.endedBuildsRoute, { query, signal });
      const isFirst = since.current === null;
      since.current = reply.now - overlapMs;
      return { ...reply, isFirst };
    },
  });
  const { data: me } = useQuery(mine);
  const { data: projects } = useQuery(projectsSeen);
  const { data: offers } = useQuery({
    queryKey: ['projects', 'offers'],
    queryFn: ({ signal }) => api.call(environmentRoutes.offersRoute, { signal }),
    select: (reply) => reply.offers,
  });
  useEffect(() => {
    if (ended === undefined) return;
    const news = ended.builds.filter((build) => !known.current.has(idOf(build)));
    for (const build of news) known.current.add(idOf(build));
    if (!ended.isFirst && news.length > 0) tell(news.toReversed().map(endInWords));
  }, [ended, tell]);
  const words =
    projects === undefined || me === undefined
      ? undefined
      : projects.filter(({ name, word }) => word && may(me.grants, 'build', name)).map(waitInWords);
  useWhatBegins(words, tell);
  useWhatBegins(offers?.map(offerInWords), tell);
}

/** Hands over what was not among them when they were asked for last. */
function useWhatBegins(
  waiting: readonly Telling[] | undefined,
  tell: (news: readonly Telling[]) => void,
): void {
  const known = useRef<ReadonlySet<string> | null>(null);
  useEffect(() => {
    if (waiting === undefined) return;
    const before = known.current;
    known.current = new Set(waiting.map(({ id }) => id));
    const news = before === null ? [] : waiting.filter(({ id }) => !before.has(id));
    if (news.length > 0) tell(news);
  }, [waiting, tell]);
}

type Ended = z.output<typeof buildRoutes.endedBuildsRoute.reply>['builds'][number];

function idOf({ project, number }: Ended): string {
  return `${project} ${number}`;
}

const ends: Partial<Record<BuildState, { readonly glyph: GlyphName; readonly says: string }>> = {
  passed: { glyph: 'passed', says: 'passed' },
  reused: { glyph: 'reused', says: 'passed: its bytes were known' },
  failed: { glyph: 'failed', says: 'failed' },
};

function endInWords(build: Ended): Telling {
  const { project, number, state, ref, subject } = build;
  const { glyph, says } = ends[state] ?? { glyph: 'warned', says: 'was stopped' };
  return {
    id: idOf(build),
    glyph,
    says: `Build ${number} of ${project} ${says}`,
    more: `${nameOfRef(ref as RefName)}: ${subject}`,
    to: `/p/${project}/builds/${number}`,
  };
}

function waitIdOf({ name, word }: ProjectSeen): string {
  return `${name} ${word?.name} ${word?.since}`;
}

function waitInWords(project: ProjectSeen): Telling {
  return {
    id: waitIdOf(project),
    glyph: 'waiting',
    says: `${project.word?.name} of ${project.name} waits for a word`,
    more: project.word?.title ?? '',
    to: `/p/${project.name}/${project.word?.name}`,
  };
}

type Offer = z.output<typeof environmentRoutes.offersRoute.reply>['offers'][number];

function offerInWords({ project, environment, build, subject }: Offer): Telling {
  return {
    id: `${project} ${environment} offers ${build}`,
    glyph: 'waiting',
    says: `Build ${build} of ${project} waits to be let into ${environment}`,
    more: subject,
    to: `/p/${project}`,
  };
}
