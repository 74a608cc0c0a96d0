import { setTimeout as pause } from 'node:timers/promises';
import { asSent, buildRoutes, pathOf } from '@vaquero/contracts';
import { isOpen } from '@vaquero/core';
import { EventSourceParserStream } from 'eventsource-parser/stream';
import { buildFailed, type Context, EndedWith } from '../command.ts';
import { describe } from './describe-build.ts';

/** Follows a build: its log as it comes, then how it ended. Throws EndedWith when the build failed. */
export async function follow(
  context: Context,
  project: string,
  number: number | undefined,
): Promise<void> {
  const build = number ?? (await newest(context, project));
  await streamLog(context, project, build);
  const reply = await context.client.call(buildRoutes.showBuildRoute, {
    params: { project, build },
  });
  if (context.json) context.io.out(JSON.stringify(asSent(reply), null, 2));
  else for (const line of describe(context.io, reply)) context.io.err(line);
  if (reply.state === 'failed') throw new EndedWith(buildFailed);
}

async function newest(context: Context, project: string): Promise<number> {
  const { builds } = await context.client.call(buildRoutes.listBuildsRoute, {
    params: { project },
    query: { limit: 1 },
  });
  if (builds[0] === undefined) throw new Error(`${project} has no build yet`);
  return builds[0].number;
}

/** Writes a log as it comes; a lost connection goes on at the byte it had come to. */
export async function streamLog(context: Context, project: string, build: number): Promise<void> {
  const decoder = new TextDecoder();
  let offset = 0;
  for (;;) {
    const outcome = await streamOnce(context, project, build, offset, (id, bytes) => {
      offset = id;
      context.io.out(decoder.decode(bytes, { stream: true }).replace(/\n$/, ''));
    });
    if (outcome === 'over') return;
    const { state } = await context.client.call(buildRoutes.showBuildRoute, {
      params: { project, build },
    });
    // A build whose attempt has not begun has no log yet, and one that was lost begins another.
    if (!isOpen(state) && outcome === 'none') return;
    await pause(250, undefined, { signal: context.signal });
  }
}

async function streamOnce(
  context: Context,
  project: string,
  build: number,
  offset: number,
  take: (id: number, bytes: Uint8Array) => void,
): Promise<'over' | 'none' | 'lost'> {
  const path = pathOf(buildRoutes.buildLogRoute, { project, build });
  const response = await fetch(`${context.client.address}${path}`, {
    headers: {
      ...context.client.headers,
      accept: 'text/event-stream',
      ...(offset === 0 ? {} : { 'last-event-id': String(offset) }),
    },
    signal: context.signal,
  });
  if (!response.ok || response.body === null) return 'lost';
  try {
    for await (const event of response.body
      .pipeThrough(new TextDecoderStream())
      .pipeThrough(new EventSourceParserStream())) {
      if (event.event === 'none') return 'none';
      if (event.event === 'end') return 'over';
      take(Number(event.id), Buffer.from(JSON.parse(event.data) as string, 'latin1'));
    }
  } catch (error) {
    if (context.signal.aborted) throw error;
  }
  return 'lost';
}

/** Writes a build's whole log as it is. */
export async function writeLog(context: Context, project: string, build: number): Promise<void> {
  const response = await fetch(
    `${context.client.address}${pathOf(buildRoutes.buildLogRoute, { project, build })}`,
    { headers: context.client.headers, signal: context.signal },
  );
  // The typed client says what is wrong with a call that the plain one was refused.
  if (!response.ok)
    await context.client.call(buildRoutes.showBuildRoute, { params: { project, build } });
  context.io.out((await response.text()).replace(/\n$/, ''));
}
