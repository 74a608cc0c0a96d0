import type { TestContext } from 'node:test';
import { auditRoutes } from '@vaquero/contracts';
import { EventSourceParserStream } from 'eventsource-parser/stream';
import { atEnd } from './place.ts';

/** What somebody who listens heard, each with its id if it has one. */
export type HeardEvent = auditRoutes.ProjectEvent & { readonly id: number | null };

/** Listens to what the service at an address says, from a position on if one is given; each event is read by its contract. */
export async function listenTo(
  t: TestContext,
  address: string,
  { secret, project, after }: { secret: string; project?: string; after?: number },
) {
  const gone = new AbortController();
  atEnd(t, () => gone.abort());
  const query = project === undefined ? '' : `?project=${project}`;
  const response = await fetch(`${address}${auditRoutes.eventsRoute.path}${query}`, {
    headers: {
      authorization: `Bearer ${secret}`,
      accept: 'text/event-stream',
      ...(after === undefined ? {} : { 'last-event-id': String(after) }),
    },
    signal: gone.signal,
  });
  const heard: HeardEvent[] = [];
  const named: string[] = [];
  const take = async (): Promise<void> => {
    const events = (response.body as unknown as ReadableStream<Uint8Array<ArrayBuffer>>)
      .pipeThrough(new TextDecoderStream())
      .pipeThrough(new EventSourceParserStream());
    for await (const { id, event, data } of events as unknown as AsyncIterable<{
      id?: string;
      event?: string;
      data: string;
    }>) {
      if (event !== undefined) named.push(event);
      else if (data !== '')
        heard.push({
          ...auditRoutes.projectEvent.parse(JSON.parse(data)),
          id: id === undefined ? null : Number(id),
        });
    }
  };
  if (response.ok) void take().catch(() => undefined); // It ends with the test, or with the service.
  return { response, heard, named, leave: () => gone.abort() };
}

/** What was heard of decisions: the ids of the log, in the order they were told. */
export function positionsOf(heard: readonly HeardEvent[]): readonly number[] {
  return heard.flatMap(({ id }) => id ?? []);
}
