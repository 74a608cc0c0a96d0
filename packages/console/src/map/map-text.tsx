import type { CompletionContext } from '@codemirror/autocomplete';
import { mapKeys, readNewMap } from '@vaquero/contracts';
import { roles } from '@vaquero/core';
import { type TextFault, YamlText } from '../parts/yaml-text.tsx';

/** Words that keys take. */
const values = ['by-itself', 'on-word', 'finish', 'stop', 'nobody', ...roles];

/** Keys of the language, and the names of this map's refs. */
function complete(names: readonly string[]) {
  return (context: CompletionContext) => {
    const word = context.matchBefore(/[\w/-]*/);
    if (word === null || (word.from === word.to && !context.explicit)) return null;
    return {
      from: word.from,
      options: [
        ...mapKeys.map((label) => ({ label, apply: `${label}: `, type: 'keyword' })),
        ...[...values, ...names].map((label) => ({ label, type: 'text' })),
      ],
    };
  };
}

/** What is wrong with a map's text. */
export function mapFaultsIn(text: string): readonly TextFault[] {
  const read = readNewMap(text, 1, 'main');
  return read.ok || read.refusal.code !== 'map-invalid' ? [] : read.refusal.faults;
}

/** The map as text, with completion and faults while typing. Tab leaves it. */
export function MapText({
  names,
  ...rest
}: {
  readonly text: string;
  readonly names: readonly string[];
  readonly isReadOnly: boolean;
  readonly onChange: (text: string) => void;
}) {
  return (
    <YamlText {...rest} label="The map as text" faultsIn={mapFaultsIn} complete={complete(names)} />
  );
}
