import { setTimeout as pause } from 'node:timers/promises';
import { buildRoutes, pathOf } from '@vaquero/contracts';
import { isOpen } from '@vaquero/core';
import { EventSourceParserStream } from 'eventsource-parser/stream';
import { type Context, EndedWith, give } from '../command.ts';
import { exitCodes } from '../exit-codes.ts';
import { describe } from './describe-build.ts';

/** Follows a build: its log as it comes, then how it ended. Throws EndedWith when the build failed. */
export async function followBuild(context: Context, project: string, build: number): Promise<void> {
  context.goesOn(
    `Build ${build} goes on. To see it again: vaquero follow ${project} ${build}. To end it: vaquero cancel ${project} ${build}`,
  );
  await streamLog(context, project, build);
  const reply = await context.client.call(buildRoutes.showBuildRoute, {
    params: { project, build },
  });
  give(context, reply, (seen) => {
    for (const line of describe(context.io, seen)) context.io.err(line);
  });
  if (reply.state === 'failed') throw new EndedWith(exitCodes.buildFailed.code);
}

/** Writes a log as it comes; a lost connection goes on at the byte it had come to. */
async function streamLog(context: Context, project: string, build: number): Promise<void> {
  const decoder = new TextDecoder();
  let offset = 0;
  for (;;) {
    const outcome = await streamOnce(context, project, build, offset, (id, bytes) => {
      offset = id;
      context.io.write(decoder.decode(bytes, { stream: true }));
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
