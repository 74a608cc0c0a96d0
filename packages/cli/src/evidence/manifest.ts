import { writeFile } from 'node:fs/promises';
import { evidenceRoutes } from '@vaquero/contracts';
import { command, give, Misuse, whole } from '../command.ts';

/** Writes the manifest of a build's artifact to a file, byte for byte: its SHA-256 is the artifact's name. */
export const manifest = command({
  name: 'manifest',
  says: 'write what its artifact holds to a file',
  examples: ['manifest timetable 218 manifest.json'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<number>', 'the build', whole)
      .argument('<file>', 'the file to write'),
  run: async (context, [project, build, file]) => {
    const { artifact, text } = await context.client.call(evidenceRoutes.manifestRoute, {
      params: { project, build },
    });
    await writeFile(file, text).catch((error: NodeJS.ErrnoException) => {
      throw new Misuse(
        `${file} cannot be written (${error.code}): name a file in a folder of yours`,
      );
    });
    give(context, { artifact, file }, () =>
      context.io.out(`${file} is the manifest of artifact ${artifact}.`),
    );
  },
});
