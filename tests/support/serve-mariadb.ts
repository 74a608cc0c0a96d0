// Runs the tests' MariaDB until standard input ends; its address is the one line on standard output.
import { chmodSync } from 'node:fs';
import { startMariadb } from '@vaquero/service';

const [directory = ''] = process.argv.slice(2);
chmodSync(directory, 0o711);
const mariadb = await startMariadb({ directory, durable: false });
process.stdout.write(`${mariadb.url}\n`);
process.stdin.resume();
process.stdin.once('end', () => {
  mariadb.stop().then(
    () => process.exit(0),
    () => process.exit(1),
  );
});
