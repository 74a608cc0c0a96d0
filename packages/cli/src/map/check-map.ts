import { readNewMap } from '@vaquero/contracts';
import { command, EndedWith } from '../command.ts';
import { exitCodes } from '../exit-codes.ts';
import { tone } from '../output.ts';
import { mapFile } from './map-file.ts';

/** Checks a map's file without any service. Each fault comes with its line and column; ends with code 3 when there is one. */
export const checkMap = command({
  name: 'check-map',
  says: 'check a map where you work, without any service',
  examples: ['check-map map.yaml'],
  takes: (bare) => bare.argument('<file>', 'the document'),
  run: async ({ io, json }, [file]) => {
    const read = readNewMap(await mapFile(file), 1, 'main');
    if (json) io.write(`${JSON.stringify({ file, ...read }, null, 2)}\n`);
    if (read.ok) {
      const names = read.value.environments.map(({ name }) => name);
      if (!json) io.out(`${file} is in order: ${names.join(', ')}.`);
      return;
    }
    const faults = read.refusal.code === 'map-invalid' ? read.refusal.faults : [];
    for (const { line, column, path, message } of json ? [] : faults)
      io.err(`${file}:${line ?? 1}:${column ?? 1}: ${tone(io, 'bad', path)} ${message}`);
    throw new EndedWith(exitCodes.refused.code);
  },
});
