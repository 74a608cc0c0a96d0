import { TextField } from '../parts/field.tsx';

/** Six digits of a second factor, or a recovery word. */
export function CodeField({
  value,
  onChange,
  label = 'Code of your second factor, or a recovery word',
}: {
  readonly value: string;
  readonly onChange: (code: string) => void;
  readonly label?: string;
}) {
  return (
    <TextField
      label={label}
      autoComplete="one-time-code"
      inputMode="text"
      required
      autoFocus
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
