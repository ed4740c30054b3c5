/** A text field with suggestions: arrows choose, Enter or Tab takes the chosen one, Escape puts them away. */
import { type KeyboardEvent, useId, useRef, useState } from 'react';
import type { Suggestion } from 'taxeon/queries';

interface SuggestFieldProps {
  readonly label: string;
  readonly value: string;
  readonly suggestions: readonly Suggestion[];
  readonly onChange: (value: string, cursor: number) => void;
  readonly onTake: (suggestion: Suggestion) => void;
}

/** The pattern of an editable combobox with a list, as the ARIA Authoring Practices describe it. */
export function SuggestField({ label, value, suggestions, onChange, onTake }: SuggestFieldProps) {
  const id = useId();
  const [active, setActive] = useState(-1);
  const [isPutAway, setPutAway] = useState(true);
  const input = useRef<HTMLInputElement>(null);
  const shown = isPutAway ? [] : suggestions.slice(0, 8);
  const chosen = shown[active];

  const take = (suggestion: Suggestion) => {
    onTake(suggestion);
    setActive(-1);
    input.current?.focus();
  };

  function press(event: KeyboardEvent): void {
    if (event.key === 'Escape') setPutAway(true);
    else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      event.preventDefault();
      setPutAway(false);
      const step = event.key === 'ArrowDown' ? 1 : -1;
      // One place more than there are: nothing chosen.
      setActive((now) => ((now + 1 + step + shown.length + 1) % (shown.length + 1)) - 1);
    } else if (chosen !== undefined && (event.key === 'Enter' || event.key === 'Tab')) {
      event.preventDefault();
      take(chosen);
    } else if (event.key === 'Enter') setPutAway(true);
  }

  return (
    <div className="suggest">
      <label htmlFor={id}>{label}</label>
      <input
        ref={input}
        id={id}
        value={value}
        autoComplete="off"
        spellCheck={false}
        role="combobox"
        aria-autocomplete="list"
        aria-expanded={shown.length > 0}
        aria-controls={`${id}-list`}
        aria-activedescendant={chosen === undefined ? undefined : `${id}-${active}`}
        onChange={({ target }) => {
          setActive(-1);
          setPutAway(false);
          onChange(target.value, target.selectionStart ?? target.value.length);
        }}
        onKeyDown={press}
        onBlur={() => setPutAway(true)}
      />
      <ul id={`${id}-list`} role="listbox" aria-label={`Suggestions for ${label}`} hidden={shown.length === 0}>
        {shown.map((one, index) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the field has the keys
          <li
            key={`${one.kind} ${one.text}`}
            id={`${id}-${index}`}
            role="option"
            aria-selected={index === active}
            onMouseDown={(event) => event.preventDefault()}
            onClick={() => take(one)}
          >
            <span>{one.label}</span> <small>{one.description ?? one.kind}</small>
          </li>
        ))}
      </ul>
    </div>
  );
}
