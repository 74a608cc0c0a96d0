import { storeRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { bytes } from '../output.ts';

/** Sweeps the store, and says what came of it. */
export const sweep = command({
  name: 'sweep',
  says: 'put aside what no artifact holds; it is done once an hour by itself',
  examples: ['sweep'],
  takes: (bare) => bare,
  run: async (context) => {
    const { io } = context;
    give(context, await context.client.call(storeRoutes.sweepRoute, {}), (swept) => {
      if (swept.putBack) io.out('Nothing was put aside: a build stored its output meanwhile.');
      else if (swept.aside === 0)
        io.out('Every blob that is older than an hour is held by an artifact.');
      else
        io.out(
          `${blobs(swept.aside)} that no artifact holds, ${bytes(swept.asideBytes)}, put aside for a day.`,
        );
      if (swept.removed > 0) io.out(`${blobs(swept.removed)} put aside earlier removed.`);
    });
  },
});

function blobs(count: number): string {
  return count === 1 ? '1 blob' : `${count} blobs`;
}
