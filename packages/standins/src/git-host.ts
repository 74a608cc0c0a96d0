import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { Socket } from 'node:net';
import { join } from 'node:path';

/** `silent`: it takes a question and never answers. */
type Behaviour = 'open' | 'private' | 'broken' | 'silent';

/** Who may read a private one. */
interface Member {
  readonly user: string;
  readonly token: string;
}

/** A small Git host elsewhere: real Git over smart HTTP, which can be told to be private, slow or down. */
export interface GitHost {
  readonly origin: string;
  /** Makes an empty bare repository and returns its address and folder. */
  readonly repository: (name: string) => Promise<{ readonly url: string; readonly folder: string }>;
  /** How it behaves from now on; a private one lets a member in, where there is one. */
  readonly behave: (how: Behaviour, member?: Member) => void;
  /** Sends whoever asks on to another host, until told otherwise. */
  readonly redirectTo: (origin: string | null) => void;
  readonly stop: () => Promise<void>;
}

/** Starts a Git host that keeps its repositories below a folder. Source: git-http-backend(1). */
export async function startGitHost(folder: string, port = 0): Promise<GitHost> {
  mkdirSync(folder, { recursive: true });
  let behaviour: Behaviour = 'open';
  let expected: string | null = null;
  const unanswered: Socket[] = [];
  let elsewhere: string | null = null;
  const server = createServer((req, res) => {
    if (behaviour === 'private' && (expected === null || req.headers.authorization !== expected)) {
      res.writeHead(401, { 'www-authenticate': 'Basic realm="members"' }).end();
      return;
    }
    if (behaviour === 'broken') {
      req.socket.destroy();
      return;
    }
    if (elsewhere !== null) {
      res.writeHead(302, { location: `${elsewhere}${req.url}` }).end();
      return;
    }
    if (behaviour === 'silent') {
      unanswered.push(req.socket);
      return;
    }
    const url = new URL(req.url ?? '/', 'http://host');
    const backend = spawn('git', ['http-backend'], {
      env: {
        PATH: process.env.PATH ?? '/usr/bin:/bin',
        GIT_PROJECT_ROOT: folder,
        GIT_HTTP_EXPORT_ALL: '1',
        PATH_INFO: url.pathname,
        QUERY_STRING: url.search.slice(1),
        REQUEST_METHOD: req.method ?? 'GET',
        CONTENT_TYPE: req.headers['content-type'] ?? '',
        HTTP_CONTENT_ENCODING: req.headers['content-encoding'] ?? '',
        GIT_PROTOCOL: String(req.headers['git-protocol'] ?? ''),
        GIT_CONFIG_NOSYSTEM: '1',
        GIT_CONFIG_GLOBAL: '/dev/null',
        GIT_CONFIG_COUNT: '1',
        GIT_CONFIG_KEY_0: 'safe.directory',
        GIT_CONFIG_VALUE_0: '*',
      },
    });
    // A program that has said what is wrong with a call does not wait for the rest of it.
    backend.stdin.on('error', () => undefined);
    req.pipe(backend.stdin);
    const chunks: Buffer[] = [];
    backend.stdout.on('data', (chunk: Buffer) => chunks.push(chunk));
    backend.on('close', () => {
      const whole = Buffer.concat(chunks);
      const end = whole.indexOf('\r\n\r\n');
      let status = 200;
      for (const line of whole.subarray(0, end).toString().split('\r\n')) {
        const [name = '', value = ''] = line.split(': ', 2);
        if (name === 'Status') status = Number.parseInt(value, 10);
        else if (name !== '') res.setHeader(name, value);
      }
      res.writeHead(status).end(whole.subarray(end + 4));
    });
  });
  server.listen(port, '127.0.0.1');
  await once(server, 'listening');
  const origin = `http://127.0.0.1:${portOf(server)}`;
  return {
    origin,
    repository: async (name) => {
      const path = join(folder, `${name}.git`);
      await makeBare(path);
      return { url: `${origin}/${name}.git`, folder: path };
    },
    redirectTo: (origin) => {
      elsewhere = origin;
    },
    behave: (how, member) => {
      behaviour = how;
      expected =
        member === undefined
          ? null
          : `Basic ${Buffer.from(`${member.user}:${member.token}`).toString('base64')}`;
      for (const socket of unanswered.splice(0)) socket.destroy();
    },
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}

/** Makes an empty bare repository. */
function makeBare(path: string): Promise<void> {
  return new Promise((resolve, reject) => {
    const made = spawn('git', ['init', '--quiet', '--bare', '--initial-branch=main', path], {
      env: { PATH: process.env.PATH ?? '', GIT_CONFIG_GLOBAL: '/dev/null' },
    });
    made.on('error', reject);
    made.on('close', (code) =>
      code === 0 ? resolve() : reject(new Error(`git init ended with ${code}`)),
    );
  });
}

function portOf(server: Server): number {
  const address = server.address();
  return typeof address === 'object' && address !== null ? address.port : 0;
}
