import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation } from "@tanstack/react-query";
import { Search } from "lucide-react";
import { Dialog } from "radix-ui";
import { type KeyboardEvent, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api, type IndexStatus } from "../api";
import { useChosenEndpoint, useChosenIndex } from "./chosenIndex";
import { useMayChange } from "./mayChange";
import { ErrorNotice } from "./notice";
import { OF_INDEX, type Page } from "./pages";

const SHOWN = 12;

/** Something that the box can do. */
interface Command {
  what: string;
  about: string;
  run: () => void;
}

/** Finds pages, indexes, records and commands by a few letters, from everywhere by Ctrl+K. */
export function CommandBox(props: { pages: Page[]; indexes: IndexStatus[] }) {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const pressed = (event: globalThis.KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        setOpen(true);
      }
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, []);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="inline-flex items-center gap-2 rounded border border-line px-2.5 py-1 text-quiet hover:border-quiet">
        <Search size={15} aria-hidden />
        <Trans>
          Go to <kbd className="text-sm max-sm:hidden">Ctrl+K</kbd>
        </Trans>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 w-[min(36rem,calc(100vw-2rem))] -translate-x-1/2 rounded border border-line bg-surface p-3 shadow-lg"
        >
          <Dialog.Title className="sr-only">
            <Trans>Go to a page, an index, a record or a command</Trans>
          </Dialog.Title>
          <Box {...props} onDone={() => setOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Box(props: { pages: Page[]; indexes: IndexStatus[]; onDone: () => void }) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const { all, error } = useCommands(props.pages, props.indexes);
  const typed = useTyped(text.trim());
  const found = [...matching(all, text).slice(0, SHOWN), ...typed];
  const chosen = Math.min(at, found.length - 1);
  const run = (command: Command | undefined) => {
    if (!command) return;
    command.run();
    props.onDone();
  };
  const pressed = (event: KeyboardEvent) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (step !== 0 && found.length > 0) {
      event.preventDefault();
      setAt((chosen + step + found.length) % found.length);
    } else if (event.key === "Enter") {
      event.preventDefault();
      run(found[chosen]);
    }
  };
  return (
    <>
      <input
        role="combobox"
        aria-label={t`Page, index, record or command`}
        aria-expanded={found.length > 0}
        aria-controls="commands"
        aria-activedescendant={found.length > 0 ? `command-${chosen}` : undefined}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={pressed}
        placeholder={t`A page, an index, the key of a record, words to search for …`}
        className="w-full rounded border border-line bg-ground px-3 py-2 text-lg"
      />
      {error && <ErrorNotice error={error} />}
      <div id="commands" role="listbox" aria-label={t`What was found`} className="mt-2">
        {found.map((command, i) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the keys are those of the text field
          <div
            key={`${command.what} ${command.about}`}
            id={`command-${i}`}
            role="option"
            tabIndex={-1}
            aria-selected={i === chosen}
            onClick={() => run(command)}
            className="flex cursor-pointer justify-between gap-3 rounded px-3 py-1.5 hover:bg-ground aria-selected:bg-wash"
          >
            <span>{command.what}</span>
            <span className="text-quiet">{command.about}</span>
          </div>
        ))}
      </div>
      {found.length === 0 && (
        <p className="px-3 py-1.5 text-quiet">
          <Trans>There is nothing to go to.</Trans>
        </p>
      )}
    </>
  );
}

/** Those in which each word of the text begins a word. */
function matching(all: Command[], text: string): Command[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  return all.filter((command) => {
    const parts = `${command.what} ${command.about}`.toLowerCase().split(/[^\p{L}\p{N}]+/u);
    return words.every((word) => parts.some((part) => part.startsWith(word)));
  });
}

/** What there is to go to and to do. */
function useCommands(pages: Page[], indexes: IndexStatus[]) {
  const chosen = useChosenIndex(indexes);
  const navigate = useNavigate();
  const mayChange = useMayChange();
  const audit = useMutation({
    mutationFn: api.audit,
    onSuccess: () => navigate("/console/jobs"),
  });
  const all: Command[] = pages.map((page) => ({
    what: page.title,
    about: "",
    run: () => navigate(page.to),
  }));
  const chosenFirst = indexes.toSorted((a, b) => Number(b === chosen) - Number(a === chosen));
  for (const { name } of chosenFirst) {
    for (const page of OF_INDEX) {
      all.push({ what: page.title, about: name, run: () => navigate(pageOf(page.to, name)) });
    }
    if (mayChange) {
      all.push({ what: t`Audit now`, about: name, run: () => audit.mutate(name) });
    }
  }
  return { all, error: audit.error };
}

/** What the text itself may be: the key of a record, or words to search for. */
function useTyped(text: string): Command[] {
  const navigate = useNavigate();
  const { endpoints } = useChosenEndpoint();
  if (text === "") return [];
  const typed = encodeURIComponent(text);
  const indexes = [...new Set(endpoints.map((endpoint) => endpoint.index))];
  return [
    ...endpoints.map(({ name }) => ({
      what: t`Search for “${text}”`,
      about: name,
      run: () => navigate(`/console/search?endpoint=${encodeURIComponent(name)}&q=${typed}`),
    })),
    ...indexes.map((name) => ({
      what: t`Record “${text}”`,
      about: name,
      run: () => navigate(`${pageOf("/console/indexes", name)}&key=${typed}`),
    })),
  ];
}

const pageOf = (page: string, name: string) => `${page}?index=${encodeURIComponent(name)}`;
