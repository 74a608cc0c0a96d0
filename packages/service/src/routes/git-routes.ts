import { PassThrough, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { faultText } from '@vaquero/contracts';
import type { Express, Request, Response } from 'express';
import type { Deps } from '../base/deps.ts';
import { Refused, refused } from '../base/refused.ts';
import { callerOfToken, fromOf } from '../callers/authenticate.ts';
import { type Caller, maySee, requireAbility } from '../people/caller.ts';
import { projectFormerly } from '../projects/former-name-rows.ts';
import { type ProjectRow, projectByName, repositoryById } from '../projects/project-rows.ts';
import { followOption, tellPusher } from '../refs/tell-pusher.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { spawnGit } from '../repositories/git.ts';
import { gitBody } from '../repositories/git-body.ts';
import { gatePush } from '../repositories/push-gate.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { listenToPush, packet, toPusher, withoutLastFlush } from '../repositories/side-band.ts';

/** Wishes of a fetch are lines of fifty bytes; a push is as large as the repository takes (receive.maxInputSize). */
const mostAskedBytes = 64 << 20;
const mostPushedBytes = 2 ** 31 + (16 << 20);

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
      const args = [service.slice(4), '--stateless-rpc', '--advertise-refs', directory];
      await run(req, res, directory, args, null);
    }).catch(next);
  });
  for (const service of ['git-upload-pack', 'git-receive-pack'] as const) {
    app.post(`/git/:name/${service}`, (req, res, next) => {
      answerGit(deps, req, res, service, async (directory, project, caller) => {
        res.setHeader('content-type', `application/x-${service}-result`);
        // What is refused is not read to its end: nothing else is to come over that connection.
        res.setHeader('connection', 'close');
        const args = [service.slice(4), '--stateless-rpc', directory];
        if (service === 'git-upload-pack')
          await run(req, res, directory, args, gitBody(req, mostAskedBytes));
        else await receive(deps, doorbell, { req, res, directory, args, project, caller });
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
    const { caller } = await callerOfToken(deps, passwordOf(req), 'git', fromOf(req));
    const name = String(req.params.name ?? '').replace(/\.git$/, '');
    const found = await projectByName(deps.db, name);
    const project = found ?? (await projectFormerly(deps.db, name, deps.clock()));
    if (project === undefined || !maySee(caller, project.id))
      return refused({ code: 'not-found', what: 'project', name });
    if (found === undefined) {
      // Git goes on at the address that it was led to.
      const location = `/git/${project.name}.git${req.originalUrl.replace(/^\/git\/[^/]*/, '')}`;
      return refused({ code: 'project-renamed', name, now: project.name, location });
    }
    if (project.endedAt !== null && service === 'git-receive-pack')
      return refused({ code: 'project-ended', name, at: project.endedAt });
    requireAbility(caller, service === 'git-receive-pack' ? 'build' : 'read', project);
    const repository = await repositoryById(deps.db, project.repositoryId);
    // A project that shares another's repository is pushed to there, by that one's roles.
    if (repository.kind !== 'hosted' || repository.homeId !== project.id)
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
    res.type('text').send('A token is the password: vaquero make-token NAME --kind git\n');
    return;
  }
  if (code === 'project-renamed') {
    res.redirect(308, error.refusal.location);
    return;
  }
  if (code === 'project-ended') {
    res
      .status(410)
      .type('text')
      .send(`${faultText(error.refusal)}\n`);
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

interface Push {
  readonly req: Request;
  readonly res: Response;
  readonly directory: string;
  readonly args: readonly string[];
  readonly project: ProjectRow;
  readonly caller: Caller;
}

/** Takes a push, then tells the pusher what came of it before the answer ends. */
async function receive(
  deps: Deps,
  doorbell: Doorbell,
  { req, res, directory, args, project, caller }: Push,
): Promise<void> {
  const gate = await gatePush(gitBody(req, mostPushedBytes));
  if (!gate.ok) {
    res.end(gate.answer);
    return;
  }
  const heard = listenToPush();
  const out = withoutLastFlush();
  const passed = pipeline(out, res, { end: false }).catch(() => undefined); // A pusher that went away hears nothing more; the push counts.
  await run(req, out, directory, args, gate.body, heard.stream);
  await passed;
  // The capability `quiet` says nothing here: Git sends it whenever it has no terminal to draw progress on.
  const { hasSideBand, options, refs } = heard.words();
  const isHeard = hasSideBand && out.hadFlush();
  const say = (line: string): boolean => {
    if (res.destroyed) return false;
    if (isHeard) res.write(toPusher(line));
    return true;
  };
  // The push is on disk whether the pusher still listens or not: its doorbell rings in any case.
  await tellPusher(
    deps,
    doorbell,
    project.repositoryId,
    { kind: 'push', doing: caller.doing, refs },
    isHeard && options.includes(followOption),
    say,
  );
  res.end(out.hadFlush() ? '0000' : undefined);
}

/** Runs Git with a body as its input; `heard` hears it on the way. */
async function run(
  req: Request,
  out: NodeJS.WritableStream,
  directory: string,
  args: readonly string[],
  bytes: Readable | null,
  heard: PassThrough = new PassThrough(),
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
  const body = bytes !== null ? pipeline(bytes, heard, stdin) : Promise.resolve(stdin.end());
  // A client that goes away, or a Git that stops reading early, ends the pipes; how Git itself ended is what counts.
  const pipes = Promise.allSettled([body, pipeline(stdout, out)]);
  await ended;
  await pipes;
}
