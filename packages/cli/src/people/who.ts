import { asSent, peopleRoutes } from '@vaquero/contracts';
import { sourceInWords } from '../addressing.ts';
import { command } from '../command.ts';

/** Says who one is, what one was granted, and where address and token were found. */
export const who = command({
  name: 'who',
  says: 'who you are here and what you were granted',
  examples: ['who'],
  takes: (bare) => bare,
  run: async (context) => {
    const { io, found } = context;
    const me = await context.client.call(peopleRoutes.meRoute);
    const { address, addressFrom, tokenFrom } = found;
    if (context.json)
      return io.write(
        `${JSON.stringify({ ...(asSent(me) as object), client: { address, addressFrom, tokenFrom } }, null, 2)}\n`,
      );
    const grants = me.grants.map(
      ({ role, project, group }) =>
        `${role} ${project === null ? 'of the installation' : `in ${project}`}${group === null ? '' : ` by ${group}`}`,
    );
    io.out(`${me.shownAs} (${me.name}): ${grants.join(', ') || 'no grant'}`);
    io.out(`at         ${address}, from ${sourceInWords(addressFrom, found)}`);
    if (tokenFrom !== null) io.out(`token      from ${sourceInWords(tokenFrom, found)}`);
  },
});
