import { type ComponentProps, type ReactNode, useId } from 'react';
import { merge } from './merge.ts';

interface Labelled {
  readonly label: ReactNode;
  /** What is wrong with what was written: said below the field, and read with it. */
  readonly fault?: string | undefined;
}

/** A line of text. */
export function TextField({
  label,
  fault,
  className,
  ...rest
}: ComponentProps<'input'> & Labelled) {
  return (
    <Field label={label} fault={fault}>
      {(described) => <input {...rest} {...described} className={merge('field', className)} />}
    </Field>
  );
}

/** Several lines of text. */
export function TextArea({
  label,
  fault,
  className,
  ...rest
}: ComponentProps<'textarea'> & Labelled) {
  return (
    <Field label={label} fault={fault}>
      {(described) => <textarea {...rest} {...described} className={merge('field', className)} />}
    </Field>
  );
}

interface ChoiceProps extends Omit<ComponentProps<'select'>, 'children'>, Labelled {
  readonly choices: readonly (readonly [value: string, says: string])[];
}

/** One of a few. */
export function Choice({ label, fault, choices, className, ...rest }: ChoiceProps) {
  return (
    <Field label={label} fault={fault}>
      {(described) => (
        <select {...rest} {...described} className={merge('field', className)}>
          {choices.map(([value, says]) => (
            <option key={value} value={value}>
              {says}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}

interface PickerProps<Word extends string> {
  /** What is picked, read aloud: where it stands says so to the eye. */
  readonly label: string;
  readonly choices: readonly Word[];
  readonly value: string;
  readonly onPick: (word: Word) => void;
}

/** One of a few, in a row of a table. */
export function Picker<Word extends string>({ label, choices, value, onPick }: PickerProps<Word>) {
  return (
    <select
      aria-label={label}
      className="field"
      value={value}
      onChange={({ currentTarget }) => {
        const wanted = choices.find((one) => one === currentTarget.value);
        if (wanted !== undefined) onPick(wanted);
      }}
    >
      {choices.map((one) => (
        <option key={one}>{one}</option>
      ))}
    </select>
  );
}

/** Yes or no. */
export function Tick({
  label,
  className,
  ...rest
}: Omit<ComponentProps<'input'>, 'type'> & { readonly label: ReactNode }) {
  return (
    <label className={merge('flex min-h-8 items-baseline gap-2', className)}>
      <input type="checkbox" {...rest} />
      <span className="flex items-baseline gap-2">{label}</span>
    </label>
  );
}

interface SearchProps {
  readonly label: string;
  readonly value: string;
  readonly onText: (text: string) => void;
}

/** What is looked for in what stands beside it, in one line with it. */
export function SearchField({ label, value, onText }: SearchProps) {
  const id = useId();
  return (
    <span className="flex items-baseline gap-2">
      <label className="text-ink-2" htmlFor={id}>
        {label}
      </label>
      <input
        id={id}
        className="field min-h-0 w-40 py-0.5"
        type="search"
        value={value}
        onChange={(event) => onText(event.currentTarget.value)}
      />
    </span>
  );
}

interface Described {
  readonly id: string;
  readonly 'aria-invalid'?: true;
  readonly 'aria-describedby'?: string;
}

function Field({
  label,
  fault,
  children,
}: Labelled & { readonly children: (described: Described) => ReactNode }) {
  const id = useId();
  const hint = `${id}-fault`;
  return (
    <div className="flex min-w-0 max-w-full flex-col gap-1">
      <label htmlFor={id} className="text-ink-2">
        {label}
      </label>
      {children({
        id,
        ...(fault === undefined ? {} : { 'aria-invalid': true, 'aria-describedby': hint }),
      })}
      {fault === undefined ? null : (
        <span id={hint} role="alert" className="text-bad">
          {fault}
        </span>
      )}
    </div>
  );
}
