import { useState } from 'react';
import { Button } from '../parts/button.tsx';
import { Choice, TextField } from '../parts/field.tsx';

const another = '\0';

/** The folder of the repository that the project is: one that was found, or another that is named. */
export function FolderField({
  folder,
  found,
  onChange,
  onLook,
}: {
  readonly folder: string;
  readonly found: readonly string[];
  readonly onChange: (folder: string) => void;
  /** Reads how a folder that was not found would be built; null before anything was read. */
  readonly onLook: ((folder: string) => void) | null;
}) {
  const [isOther, setOther] = useState(false);
  const isTyped = found.length === 0 || isOther;
  return (
    <>
      {found.length === 0 ? null : (
        <Choice
          label="Folder in the repository"
          className="w-72 max-w-full font-mono"
          value={isOther ? another : folder}
          choices={[
            ...found.map((one) => [one, one === '' ? 'all of it' : one] as const),
            [another, 'another one'],
          ]}
          onChange={(event) => {
            const { value } = event.currentTarget;
            setOther(value === another);
            if (value !== another) onChange(value);
          }}
        />
      )}
      {isTyped ? (
        <div className="flex flex-wrap items-end gap-3">
          <TextField
            label={
              found.length === 0 ? 'Folder in the repository; empty for the root' : 'Which folder'
            }
            className="w-72 max-w-full font-mono"
            value={folder}
            onChange={(event) => onChange(event.currentTarget.value)}
          />
          {onLook === null ? null : (
            <Button
              onClick={() => {
                onLook(folder);
                setOther(false);
              }}
            >
              Read it there
            </Button>
          )}
        </div>
      ) : null}
    </>
  );
}
