import assert from 'node:assert/strict';
import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { gzipSync } from 'node:zlib';
import { buildRoutes, recipeRoutes } from '@vaquero/contracts';
import { execa } from 'execa';
import { until } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';

test('what is pushed harms neither the service nor what others see', async (t) => {
  const service = await startTestService(t, {
    environment: { VAQUERO_OPENED_REPOSITORIES: 'secret:opened' },
  });
  const bombs = await service.project('bombs');
  const tides = await service.project('tides');
  // Never by a call that waits: this process is the one that answers.
  const git = async (folder: string, args: readonly string[], input?: string): Promise<string> =>
    (await execa('git', [...args], { cwd: folder, ...(input === undefined ? {} : { input }) }))
      .stdout;
  const latest = async (project: string, after: number) =>
    until('another build is there', async () => {
      const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, {
        params: { project },
        query: { limit: 1 },
      });
      const [first] = builds;
      return (
        first !== undefined && first.number > after && service.buildEnded(project, first.number)
      );
    });
  /** A commit of trees in trees, the lowest of which holds `lowest`. */
  const nested = async (
    depth: number,
    names: readonly string[],
    lowest: string,
  ): Promise<string> => {
    const { folder } = bombs.copy;
    let entry = lowest;
    for (let level = 0; level < depth; level += 1) {
      const tree = await git(
        folder,
        ['mktree'],
        names.map((name) => `${entry}\t${name}\n`).join(''),
      );
      entry = `040000 tree ${tree}`;
    }
    const tree = entry.replace('040000 tree ', '');
    const author = {
      GIT_AUTHOR_NAME: 'Wren',
      GIT_AUTHOR_EMAIL: 'wren@kettle.example',
      GIT_COMMITTER_NAME: 'Wren',
      GIT_COMMITTER_EMAIL: 'wren@kettle.example',
    };
    return (await execa('git', ['commit-tree', '-m', 'A bomb', tree], { cwd: folder, env: author }))
      .stdout;
  };
  /** The service's own repository that has a commit. */
  const repositoryOf = async (commit: string): Promise<string> => {
    const all = join(service.state, 'repositories');
    for (const name of readdirSync(all)) {
      const found = await execa('git', ['cat-file', '-e', commit], {
        cwd: join(all, name),
        reject: false,
      });
      if (found.exitCode === 0) return join(all, name);
    }
    throw new Error(`no repository has ${commit}`);
  };
  await bombs.push('The first', { 'index.html': 'x' });
  const blob = `100644 blob ${await git(bombs.copy.folder, ['hash-object', '-w', '--stdin'], 'tide')}`;
  const hundred = Array.from({ length: 100 }, (_, n) => `a${String(n).padStart(2, '0')}`);

  await t.test(
    'trees that name themselves a hundred times over are refused at once, and others are answered',
    async () => {
      const cases = [
        [await nested(5, hundred, blob), /over 200,000 entries/],
        [await nested(120, ['d'], blob), /folders over 100 deep/],
        [await nested(60, ['d'.repeat(200)], blob), /a path of over 4,000 bytes/],
      ] as const;
      let number = 1;
      for (const [commit, why] of cases) {
        const began = performance.now();
        await git(bombs.copy.folder, [
          'push',
          '-q',
          '-f',
          bombs.remote,
          `${commit}:refs/heads/main`,
        ]);
        const build = await latest('bombs', number);
        number = build.number;
        assert.deepEqual([build.state, build.reason?.reason], ['failed', 'commit-unreadable']);
        assert.match(build.failure?.why ?? '', why);
        assert.ok(performance.now() - began < 15_000, 'it took long');
      }
      assert.equal(
        (
          await refusalOf(
            service.operator.call(recipeRoutes.showRecipeRoute, { params: { project: 'bombs' } }),
          )
        ).code,
        'commit-unreadable',
      );
      assert.equal((await tides.push('Beside it', { 'index.html': 'y' })).state, 'passed');
    },
  );

  await t.test(
    'a commit during whose reading the service died twice is not read again until somebody asks',
    async () => {
      const { copy, remote } = tides;
      const earlier = await git(copy.folder, ['rev-parse', 'HEAD']);
      const commit = await copy.commit('Deadly', { 'index.html': 'z' });
      const notes = join(await repositoryOf(earlier), 'vaquero-reading');
      mkdirSync(notes, { recursive: true });
      // As two processes would have left it that died before they could take it away.
      writeFileSync(join(notes, commit), '2');
      assert.ok((await copy.push(remote)).ok);
      const failed = await latest('tides', 1);
      assert.deepEqual(
        [failed.state, failed.reason?.reason, failed.commit.subject],
        ['failed', 'commit-unreadable', '(not read)'],
      );
      assert.match(failed.failure?.why ?? '', /ended twice/);
      const again = await service.operator.call(buildRoutes.buildAgainRoute, {
        params: { project: 'tides' },
        body: { build: failed.number, earlier: 'used' },
      });
      assert.equal((await service.buildEnded('tides', again.number)).state, 'passed');
      assert.deepEqual(readdirSync(notes), []);
    },
  );

  await t.test('a replacement of an object is neither taken nor obeyed', async () => {
    const { folder } = tides.copy;
    const own = await git(folder, ['hash-object', '--stdin'], 'honest');
    const other = await git(folder, ['rev-parse', 'HEAD:index.html']);
    await assert.rejects(
      git(folder, ['push', tides.remote, `HEAD:refs/replace/${own}`]),
      /only branches and tags are taken here/,
    );
    // One that stands there already, from a time before this rule.
    await git(await repositoryOf(await git(folder, ['rev-parse', 'HEAD'])), [
      'update-ref',
      `refs/replace/${own}`,
      other,
    ]);
    const build = await tides.push('After it', { 'index.html': 'honest' });
    assert.equal(build.state, 'passed');
    assert.equal(
      (await service.page(`staging.tides.localhost:${service.edgePort}`)).text,
      'honest',
    );
  });

  await t.test(
    'names that are no branch or tag are refused with the reason, and good ones are taken',
    async () => {
      const { folder } = tides.copy;
      const reasons = {
        'refs/notes/commits': /only branches and tags/,
        'refs/heads/refs/heads/main': /begins with refs\/ twice/,
        'refs/heads/HEAD': /Git’s own word/,
        'refs/heads/-x': /looks like an option/,
        [`refs/tags/${'ab'.repeat(20)}`]: /looks like a commit id/,
        'refs/proposed/7': /only branches and tags/,
        'refs/vaquero/kept/x': /only branches and tags/,
      };
      for (const [name, why] of Object.entries(reasons))
        await assert.rejects(() => git(folder, ['push', tides.remote, `HEAD:${name}`]), why, name);
      // One bad name stops the whole push: half of it would be a state that nobody asked for.
      await assert.rejects(
        () => git(folder, ['push', tides.remote, 'HEAD:refs/heads/good', 'HEAD:refs/heads/HEAD']),
        /another ref of this push is refused/,
      );
      await assert.rejects(() =>
        git(folder, ['ls-remote', '--exit-code', tides.remote, 'refs/heads/good']),
      );
      await git(folder, ['push', '-q', tides.remote, 'HEAD:refs/heads/good', 'HEAD:refs/tags/v1']);
      await git(folder, ['push', '-q', tides.remote, ':refs/heads/good', ':refs/tags/v1']);
      await git(folder, ['push', '-q', '--mirror', tides.remote]);
    },
  );

  await t.test(
    'a body of Git’s that inflates without end is cut off, and one that is no gzip is told',
    async () => {
      const headers = {
        authorization: `Basic ${Buffer.from(`x:${new URL(tides.remote).password}`).toString('base64')}`,
        'content-encoding': 'gzip',
        'content-type': 'application/x-git-receive-pack-request',
      };
      const bomb = gzipSync(Buffer.concat([Buffer.from('00000000'), Buffer.alloc(256 << 20)]), {
        level: 9,
      });
      const before = process.memoryUsage().rss;
      const post = (name: string, body: Buffer) =>
        fetch(`${service.address}/git/tides.git/${name}`, {
          method: 'POST',
          headers,
          body: new Uint8Array(body),
        });
      // Cut off while it is still being sent, the sender may see no more than that.
      for (const name of ['git-receive-pack', 'git-upload-pack'])
        await post(name, bomb).then(
          (answer) => answer.arrayBuffer(),
          (error: Error & { cause?: { code?: string } }) =>
            assert.equal(error.cause?.code, 'ECONNRESET'),
        );
      assert.ok(process.memoryUsage().rss - before < 200 << 20);
      assert.equal((await post('git-receive-pack', Buffer.from('no gzip'))).status, 400);
      assert.equal(
        (await git(tides.copy.folder, ['ls-remote', tides.remote, 'refs/heads/main'])).slice(0, 40),
        await git(tides.copy.folder, ['rev-parse', 'HEAD']),
      );
    },
  );

  await t.test('a submodule brings nothing of a project that its own may not have', async () => {
    const secret = await service.project('secret');
    await secret.push('Plans', { 'index.html': 'moored', 'plan.txt': 'the new quay' });
    const commit = await git(secret.copy.folder, ['rev-parse', 'HEAD']);
    const inside = await repositoryOf(commit);
    const page = {
      'vaquero.yaml':
        'steps:\n  pages: {run: "ls -R plans; mkdir -p out; cat plans/plan.txt > out/index.html"}\nserve: {site: out}\n',
    };
    const link = async (project: string, url: string, object: string) => {
      const made = await service.project(project);
      await made.copy.commit('First', {
        ...page,
        '.gitmodules': `[submodule "plans"]\n\tpath = plans\n\turl = ${url}\n`,
      });
      await made.copy.git('update-index', '--add', '--cacheinfo', `160000,${object},plans`);
      await made.copy.git('commit', '--quiet', '--message', 'With plans');
      assert.ok((await made.copy.push(made.remote)).ok);
      return latest(project, 0);
    };
    const addresses = [
      inside,
      join(service.state, 'roots', '..', 'repositories', inside.split('/').at(-1) ?? ''),
      `${service.address}/git/secret.git`,
      `${service.origin}/git/secret`,
      '../secret.git',
      `${service.address}/git/nobody.git`,
    ];
    for (const [number, url] of addresses.entries()) {
      const { state, failure } = await link(`borrower-${number}`, url, commit);
      assert.equal(state, 'failed', url);
      assert.match(
        failure?.why ?? '',
        /may not have; an operator can open it|no repository below a folder/,
        url,
      );
      assert.doesNotMatch(failure?.why ?? '', /quay/);
    }
    const opened = await link('opened', '../secret.git', commit);
    assert.equal(opened.state, 'passed', JSON.stringify(opened.failure));
    // The build has passed before staging moves.
    await until('staging serves what was opened', async () => {
      const page = await service.page(`staging.opened.localhost:${service.edgePort}`);
      return page.text === 'the new quay';
    });
  });

  await t.test('a repository that is its own submodule without end is refused', async () => {
    const own = await service.project('ouroboros');
    const first = await own.copy.commit('First', {
      'index.html': 'x',
      '.gitmodules': Array.from(
        { length: 30 },
        (_, n) => `[submodule "m${n}"]\n\tpath = m${n}\n\turl = ../ouroboros.git\n`,
      ).join(''),
    });
    let commit = first;
    for (let level = 0; level < 3; level += 1) {
      for (let n = 0; n < 30; n += 1)
        await own.copy.git('update-index', '--add', '--cacheinfo', `160000,${commit},m${n}`);
      await own.copy.git('commit', '--quiet', '--message', `Level ${level}`);
      commit = await own.copy.git('rev-parse', 'HEAD');
    }
    assert.ok((await own.copy.push(own.remote)).ok);
    const { state, failure } = await latest('ouroboros', 0);
    assert.equal(state, 'failed');
    assert.match(failure?.why ?? '', /there are over 200 submodules/);
  });
});
