import { type MailAddresses, mailRoutes } from '@vaquero/contracts';
import { type Context, command, give, Misuse } from '../command.ts';
import type { Io } from '../io.ts';
import { safe, when } from '../output.ts';

/** Shows, adds, proves or takes away one's own mail addresses. */
export const mail = command({
  name: 'mail',
  says: 'your mail addresses: commits under them are known as yours',
  examples: ['mail', 'mail --add wren@ferries.example'],
  takes: (bare) =>
    bare
      .option('--add <address>', 'add one: a link is sent to it')
      .option('--prove <key>', 'what stands behind # in that link')
      .option('--drop <address>', 'take one away'),
  run: async (context, _, { add, prove, drop }) => {
    if ([add, prove, drop].filter((one) => one !== undefined).length > 1)
      throw new Misuse('One of --add, --prove and --drop at a time.');
    const reply = await act(context, { add, prove, drop });
    give(context, reply, (all) => show(context.io, all));
    if (add !== undefined) context.io.err('A link was sent to it, which is good for a day.');
  },
});

interface Asked {
  readonly add: string | undefined;
  readonly prove: string | undefined;
  readonly drop: string | undefined;
}

function act({ client }: Context, { add, prove, drop }: Asked): Promise<MailAddresses> {
  if (add !== undefined) return client.call(mailRoutes.addMailRoute, { body: { address: add } });
  if (prove !== undefined)
    // Whoever pastes the whole link means its key.
    return client.call(mailRoutes.proveMailRoute, { body: { key: prove.replace(/^.*#/, '') } });
  if (drop !== undefined) return client.call(mailRoutes.dropMailRoute, { body: { address: drop } });
  return client.call(mailRoutes.listMailRoute);
}

function show(io: Io, { sends, addresses }: MailAddresses): void {
  if (addresses.length === 0)
    io.out(sends ? 'You have no mail address here.' : 'This installation sends no mail.');
  for (const { address, provenAt } of addresses)
    io.out(
      `${safe(address)}   ${provenAt === null ? 'waits for its link to be followed' : `yours since ${when(provenAt)}`}`,
    );
}
