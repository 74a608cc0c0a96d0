import { Agent, type ClientRequest, request } from 'node:http';
import { request as requestSafely, Agent as SafeAgent } from 'node:https';
import type { Client, Route } from '@vaquero/contracts';
import type { z } from 'zod';

/** Tells the api what a move waits for. */
export interface ApiTeller {
  /** Settles when the api has taken it. Throws when it does not answer, or with anything but HTTP 200. */
  readonly tell: <Body extends z.ZodType>(
    route: Route<z.ZodType, Body, z.ZodType>,
    body: z.input<Body>,
  ) => Promise<void>;
  readonly stop: () => void;
}

/**
 * Makes what tells the api, over connections that stay. Node's own client sends in the turn of the event loop in which
 * it is asked, where fetch takes several, and each of them waits behind the requests of a busy edge.
 */
export function makeTeller({ address, headers }: Pick<Client, 'address' | 'headers'>): ApiTeller {
  const isSafe = address.startsWith('https:');
  const options = { keepAlive: true, maxSockets: 4 };
  const agent = isSafe ? new SafeAgent(options) : new Agent(options);
  const ask = isSafe ? requestSafely : request;

  const once = (path: string, body: string): Promise<void> =>
    new Promise((resolve, reject) => {
      const asking: ClientRequest = ask(
        `${address}${path}`,
        {
          method: 'POST',
          agent,
          headers: {
            ...headers,
            'content-type': 'application/json',
            'content-length': Buffer.byteLength(body),
          },
        },
        (res) => {
          res.resume();
          res.once('error', reject);
          if (res.statusCode !== undefined && res.statusCode < 300) resolve();
          else reject(new Error(`${path} was answered with HTTP ${res.statusCode}`));
        },
      );
      asking.once('error', (error) =>
        reject(asking.reusedSocket ? new StaleConnection(error) : error),
      );
      asking.end(body);
    });

  return {
    tell: async (route, body) => {
      const text = JSON.stringify(body);
      try {
        await once(route.path, text);
      } catch (error) {
        // A connection that the api had closed just then: what is told here may be told twice.
        if (!(error instanceof StaleConnection)) throw error;
        await once(route.path, text);
      }
    },
    stop: () => agent.destroy(),
  };
}

/** A kept connection broke before it brought an answer. */
class StaleConnection extends Error {
  override readonly name = 'StaleConnection';

  constructor(cause: Error) {
    super(cause.message, { cause });
  }
}
