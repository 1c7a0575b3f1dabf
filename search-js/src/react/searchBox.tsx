import { type KeyboardEvent, useId, useState } from "react";
import type { Completion } from "../client";
import { useSearch } from "./context";

/**
 * A search box with completions: a combobox with a list box (ARIA Authoring Practices). Arrows go
 * through the completions, Enter takes one or searches for what was typed, Escape closes them.
 */
export function SearchBox(props: { label?: string; placeholder?: string; className?: string }) {
  const { store, state, texts } = useSearch();
  const list = useId();
  const [active, setActive] = useState(-1);
  const [closed, setClosed] = useState(false);
  const shown = closed ? [] : state.completions;
  const close = () => {
    setActive(-1);
    setClosed(true);
  };
  const take = (completion: Completion | undefined) => {
    close();
    if (completion) store.take(completion);
    else store.submit();
  };
  const key = (event: KeyboardEvent) => {
    const steps = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (event.nativeEvent.isComposing) return;
    if (steps && shown.length) {
      event.preventDefault();
      // One place beyond the list is the box itself.
      const places = shown.length + 1;
      setActive(((active + 1 + steps + places) % places) - 1);
    } else if (event.key === "Escape" && shown.length) {
      event.preventDefault();
      close();
    } else if (event.key === "Tab") {
      close();
    }
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: many browsers do not know a search element yet
    <form
      role="search"
      data-part="search-box"
      className={props.className}
      onSubmit={(event) => {
        event.preventDefault();
        take(shown[active]);
      }}
    >
      <div data-part="combobox">
        <input
          type="search"
          role="combobox"
          aria-label={props.label ?? texts.search}
          aria-expanded={shown.length > 0}
          aria-controls={list}
          aria-autocomplete="list"
          aria-activedescendant={active >= 0 ? `${list}-${active}` : undefined}
          autoComplete="off"
          placeholder={props.placeholder}
          value={state.typed}
          onChange={(event) => {
            setActive(-1);
            setClosed(false);
            store.type(event.target.value);
          }}
          onKeyDown={key}
          onBlur={close}
        />
        <div
          id={list}
          role="listbox"
          aria-label={texts.completions}
          data-part="completions"
          hidden={shown.length === 0}
        >
          {shown.map((completion, place) => (
            // The box keeps the focus, and the keys with it.
            // biome-ignore lint/a11y/useKeyWithClickEvents: keys are handled in the box
            // biome-ignore lint/a11y/useFocusableInteractive: the box names the active one
            <div
              key={`${completion.from} ${completion.facet ?? ""} ${completion.text}`}
              id={`${list}-${place}`}
              role="option"
              aria-selected={place === active}
              data-part="completion"
              data-from={completion.from}
              onMouseDown={(event) => event.preventDefault()}
              onClick={() => take(completion)}
            >
              <Marked html={completion.marked} />
              {completion.facet && (
                <span data-part="completion-facet">
                  {state.answer?.facets[completion.facet]?.title ?? completion.facet}
                </span>
              )}
            </div>
          ))}
        </div>
      </div>
      <button type="submit">{texts.search}</button>
    </form>
  );
}

/** Escaped HTML with marks, as the service answers it. */
export function Marked(props: { html: string }) {
  // biome-ignore lint/security/noDangerouslySetInnerHtml: the service escapes everything but its marks
  return <span dangerouslySetInnerHTML={{ __html: props.html }} />;
}
