import { pipeline } from 'node:stream/promises';
import { createGunzip } from 'node:zlib';
import type { Express, Request, Response } from 'express';
import type { Deps } from '../deps.ts';
import { callerOfToken, originOf } from '../people/authenticate.ts';
import { type Caller, maySee, requireAbility } from '../people/caller.ts';
import { type ProjectRow, projectByName, repositoryById } from '../projects/project-rows.ts';
import type { Doorbell } from '../refs/doorbell.ts';
import { Refused, refused } from '../refused.ts';
import { directoryOf } from './bare-repository.ts';
import { spawnGit } from './git.ts';

type Service = 'git-upload-pack' | 'git-receive-pack';

/**
 * Serves hosted repositories over smart HTTP with real Git underneath; a token is the password, the user
 * name is not looked at. Source: gitprotocol-http(5).
 */
export function serveGit(app: Express, deps: Deps, doorbell: Doorbell): void {
  app.get('/git/:name/info/refs', (req, res, next) => {
    const service = req.query.service;
    if (service !== 'git-upload-pack' && service !== 'git-receive-pack') {
      res.status(403).type('text').send('Use smart HTTP: a Git client of this century.\n');
      return;
    }
    answerGit(deps, req, res, service, async (directory) => {
      res.setHeader('content-type', `application/x-${service}-advertisement`);
      res.write(packet(`# service=${service}\n`));
      res.write('0000');
      await run(
        req,
        res,
        directory,
        [service.slice(4), '--stateless-rpc', '--advertise-refs', directory],
        false,
      );
    }).catch(next);
  });
  for (const service of ['git-upload-pack', 'git-receive-pack'] as const) {
    app.post(`/git/:name/${service}`, (req, res, next) => {
      answerGit(deps, req, res, service, async (directory, project, caller) => {
        res.setHeader('content-type', `application/x-${service}-result`);
        await run(req, res, directory, [service.slice(4), '--stateless-rpc', directory], true);
        // The push is on disk whether the pusher still listens or not: its doorbell rings in any case.
        if (service === 'git-receive-pack')
          doorbell.ring(project.repositoryId, { kind: 'push', doing: caller.doing });
      }).catch(next);
    });
  }
}

async function answerGit(
  deps: Deps,
  req: Request,
  res: Response,
  service: Service,
  act: (directory: string, project: ProjectRow, caller: Caller) => Promise<void>,
): Promise<void> {
  res.setHeader('cache-control', 'no-cache');
  try {
    const { caller } = await callerOfToken(deps, passwordOf(req), 'git', originOf(req));
    const name = String(req.params.name ?? '').replace(/\.git$/, '');
    const project = await projectByName(deps.db, name);
    if (project === undefined || !maySee(caller, project.id))
      return refused({ code: 'not-found', what: 'project', name });
    requireAbility(caller, service === 'git-receive-pack' ? 'build' : 'read', project);
    const repository = await repositoryById(deps.db, project.repositoryId);
    if (repository.kind !== 'hosted')
      return refused({ code: 'not-found', what: 'hosted repository', name });
    await act(directoryOf(deps.config.stateDirectory, repository.id), project, caller);
  } catch (error) {
    if (!(error instanceof Refused) || res.headersSent) throw error;
    answerRefusal(res, error);
  }
}

/** Git shows the body of a plain-text answer to the person who pushes. */
function answerRefusal(res: Response, error: Refused): void {
  const { code } = error.refusal;
  if (code === 'not-signed-in') {
    res
      .status(401)
      .setHeader(
        'www-authenticate',
        'Basic realm="Vaquero: a token is the password", charset="UTF-8"',
      );
    res.type('text').send('A token is the password: vaquero token make NAME --kind git\n');
    return;
  }
  const text =
    code === 'not-allowed'
      ? `This needs the role ${error.refusal.needs}.`
      : 'There is no such repository that you may see.';
  res
    .status(code === 'not-allowed' ? 403 : 404)
    .type('text')
    .send(`${text}\n`);
}

function passwordOf(req: Request): string {
  const basic = /^Basic (\S+)$/i.exec(req.headers.authorization ?? '')?.[1];
  if (basic === undefined) return refused({ code: 'not-signed-in', tried: 'nothing' });
  const [, password] = /^[^:]*:(.*)$/s.exec(Buffer.from(basic, 'base64').toString('utf8')) ?? [];
  return password ?? refused({ code: 'not-signed-in', tried: 'token' });
}

async function run(
  req: Request,
  res: Response,
  directory: string,
  args: readonly string[],
  withBody: boolean,
): Promise<void> {
  const version = req.headers['git-protocol'];
  const child = spawnGit(
    args,
    directory,
    typeof version === 'string' && /^version=\d+(:\S+)*$/.test(version)
      ? { GIT_PROTOCOL: version }
      : {},
  );
  const { stdin, stdout, stderr } = child;
  if (stdin === null || stdout === null || stderr === null) return;
  stderr.resume();
  const ended = new Promise<number | null>((resolve, reject) =>
    child.once('exit', resolve).once('error', reject),
  );
  const body = withBody
    ? req.headers['content-encoding'] === 'gzip'
      ? pipeline(req, createGunzip(), stdin)
      : pipeline(req, stdin)
    : Promise.resolve(stdin.end());
  // A client that goes away, or a Git that stops reading early, ends the pipes; how Git itself ended is what counts.
  const pipes = Promise.allSettled([body, pipeline(stdout, res)]);
  await ended;
  await pipes;
}

function packet(text: string): string {
  return (text.length + 4).toString(16).padStart(4, '0') + text;
}
