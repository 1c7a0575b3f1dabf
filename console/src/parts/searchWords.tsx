import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Search } from "lucide-react";
import { useEffect, useId, useRef, useState } from "react";
import { api } from "../api";

const TYPING_PAUSE_MILLIS = 120;

/** The words of a search, completed as they are typed. */
export function Words(props: {
  words: string;
  onWords: (words: string) => void;
  endpoint?: string;
}) {
  const [typed, setTyped] = useState(props.words);
  const { words, onWords } = props;
  const list = useId();
  const suggestions = useQuery({
    queryKey: ["suggest", props.endpoint, words],
    queryFn: () => api.suggest(props.endpoint ?? "", words),
    enabled: props.endpoint !== undefined && words.trim().length > 1,
    placeholderData: keepPreviousData,
  });
  const sent = useRef(words);
  useEffect(() => {
    // Words that did not come from here, such as a correction that was taken.
    if (words !== sent.current) {
      sent.current = words;
      setTyped(words);
    }
  }, [words]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only typing starts the pause anew
  useEffect(() => {
    if (typed === words) return;
    const pause = setTimeout(() => {
      sent.current = typed;
      onWords(typed);
    }, TYPING_PAUSE_MILLIS);
    return () => clearTimeout(pause);
  }, [typed]);
  return (
    <label className="relative min-w-60 grow">
      <span className="sr-only">
        <Trans>Words to search for</Trans>
      </span>
      <Search size={17} className="absolute top-2.5 left-3 text-quiet" aria-hidden />
      <input
        type="search"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        list={list}
        placeholder={t`shade fern, "slug damage", -rust, harts*`}
        className="w-full rounded border border-line bg-surface py-1.5 pr-3 pl-9 text-lg placeholder:text-quiet"
      />
      <datalist id={list}>
        {suggestions.data?.suggestions.map((one) => (
          <option key={`${one.from} ${one.facet ?? ""} ${one.text}`} value={one.text} />
        ))}
      </datalist>
    </label>
  );
}

/** A filter as developers write it; applied when it is finished, not while it is typed. */
export function Filter(props: { filter: string; onFilter: (filter: string) => void }) {
  const [typed, setTyped] = useState(props.filter);
  return (
    <form
      className="flex gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        props.onFilter(typed.trim());
      }}
    >
      <label className="flex grow items-center gap-2">
        <span className="text-sm text-quiet">
          <Trans>Filter</Trans>
        </span>
        <input
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={() => typed.trim() !== props.filter && props.onFilter(typed.trim())}
          placeholder={t`as in SQL: field = 'value' AND other < 50`}
          className="grow rounded border border-line bg-surface px-2 py-1 font-mono text-sm placeholder:text-quiet"
          spellCheck={false}
        />
      </label>
    </form>
  );
}
