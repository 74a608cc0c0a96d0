import { type KeyboardEvent, type ReactNode, type Ref, useId, useState } from 'react';
import { merge } from './merge.ts';

/** One of what a combobox offers. */
export interface Offer {
  readonly key: string;
  readonly says: ReactNode;
}

interface ComboBoxProps {
  /** What it is for, read aloud. */
  readonly label: string;
  readonly placeholder: string;
  readonly text: string;
  readonly onText: (text: string) => void;
  readonly offers: readonly Offer[];
  readonly onPick: (key: string) => void;
  /** What stands below the offers: that there are none, or why. */
  readonly below: ReactNode;
  readonly inputRef: Ref<HTMLInputElement>;
  readonly className?: string;
}

/**
 * A field with a list below it of which one is picked.
 * Pattern: WAI-ARIA Authoring Practices, combobox with list autocomplete.
 */
export function ComboBox(props: ComboBoxProps) {
  const { label, placeholder, text, onText, offers, onPick, below, inputRef, className } = props;
  const [chosen, setChosen] = useState(0);
  const [isOpen, setOpen] = useState(false);
  const list = useId();
  const isShown = isOpen && text.trim() !== '';
  const leave = (input: HTMLElement): void => {
    setOpen(false);
    onText('');
    input.blur();
  };
  const keys = (event: KeyboardEvent<HTMLInputElement>): void => {
    if (event.key === 'Escape') leave(event.currentTarget);
    const picked = offers[chosen];
    if (event.key === 'Enter' && picked !== undefined) {
      leave(event.currentTarget);
      onPick(picked.key);
    }
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (step === 0 || offers.length === 0) return;
    event.preventDefault();
    setChosen((chosen + step + offers.length) % offers.length);
  };
  return (
    <div className="relative">
      <input
        ref={inputRef}
        className={merge('field', className)}
        role="combobox"
        aria-label={label}
        aria-expanded={isShown}
        aria-controls={list}
        aria-activedescendant={isShown && offers.length > 0 ? `${list}-${chosen}` : undefined}
        aria-autocomplete="list"
        autoComplete="off"
        placeholder={placeholder}
        maxLength={200}
        value={text}
        onChange={(event) => {
          onText(event.target.value);
          setChosen(0);
          setOpen(true);
        }}
        onBlur={() => setOpen(false)}
        onKeyDown={keys}
      />
      {isShown ? (
        <div className="absolute right-0 top-full z-10 mt-0.5 w-[30rem] border border-rule-2 bg-sheet py-1">
          <div id={list} role="listbox" aria-label="Found" tabIndex={-1}>
            {offers.map(({ key, says }, index) => (
              // biome-ignore lint/a11y/useKeyWithClickEvents: the keyboard acts on the field, which names the chosen one.
              // biome-ignore lint/a11y/useFocusableInteractive: an option of a combobox is never focused itself.
              <div
                key={key}
                id={`${list}-${index}`}
                role="option"
                aria-selected={chosen === index}
                className={`cursor-pointer px-3 py-1 ${chosen === index ? 'bg-well' : ''}`}
                // The field would lose the focus, and the list go, before the press is over.
                onMouseDown={(event) => event.preventDefault()}
                onClick={() => {
                  setOpen(false);
                  onText('');
                  onPick(key);
                }}
              >
                {says}
              </div>
            ))}
          </div>
          {below}
        </div>
      ) : null}
    </div>
  );
}
