import { once } from 'node:events';
import { Agent, createServer, request } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';
import type { EdgeConfig } from '../config.ts';
import { answer, type Serving } from './answer.ts';
import { answeredAgain } from './same-again.ts';

/** What stands towards visitors: one server in this process, or several in processes of their own. */
export interface Front {
  /** Begins to take requests. */
  readonly listen: () => Promise<void>;
  readonly port: () => number;
  /** The revision that visitors are answered with, asked where they ask; null before it listens. */
  readonly revision: () => Promise<number> | null;
  /** Ends: what is under way ends by itself, what hangs is cut after two seconds. */
  readonly close: () => Promise<void>;
}

const healthHost = 'edge.health';
const lastRequestsMs = 2_000;

/** Makes a server in this process. */
export function makeFront(
  serving: Serving,
  { host, port }: Pick<EdgeConfig, 'host' | 'port'>,
): Front {
  const { table } = serving;
  const agent = new Agent({ keepAlive: true, maxSockets: 4 });
  const server = createServer(
    { keepAliveTimeout: 30_000, requestTimeout: 30_000, headersTimeout: 10_000 },
    (req, res) => {
      if (req.headers.host !== healthHost) {
        if (!answeredAgain(serving, req, res)) void answer(serving, req, res);
        return;
      }
      const revision = table.revision();
      res.writeHead(200, {
        'content-type': 'application/json',
        'vaquero-revision': String(revision),
      });
      res.end(JSON.stringify({ role: 'edge', ok: true, revision }));
    },
  );
  const portOf = (): number => {
    const address = server.address();
    return typeof address === 'object' && address !== null ? address.port : 0;
  };
  return {
    listen: async () => {
      server.listen(port, host);
      await once(server, 'listening');
    },
    port: portOf,
    revision: () => (server.listening ? askSelf(portOf(), host, agent) : null),
    close: async () => {
      const closed = once(server, 'close');
      server.close();
      server.closeIdleConnections();
      await Promise.race([closed, pause(lastRequestsMs)]);
      server.closeAllConnections();
      agent.destroy();
      await closed;
    },
  };
}

function askSelf(port: number, host: string, agent: Agent): Promise<number> {
  return new Promise((resolve, reject) => {
    const asking = request(
      { host: host === '0.0.0.0' ? '127.0.0.1' : host, port, agent, headers: { host: healthHost } },
      (res) => {
        res.resume();
        res.once('error', reject);
        resolve(Number(res.headers['vaquero-revision']));
      },
    );
    asking.once('error', reject);
    asking.end();
  });
}
