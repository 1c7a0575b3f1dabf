import {
  acceptCompletion,
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  completionKeymap,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { bracketMatching, HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, linter, lintGutter } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { drawSelection, EditorView, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { t } from "@lingui/core/macro";
import { useEffect, useRef } from "react";
import { api } from "../api";
import { type Names, offers, type Schema } from "./yamlCompletion";

const CHECK_AFTER_MILLIS = 400;

const LOOK = EditorView.theme({
  "&": { background: "var(--ground)", color: "var(--ink)", fontSize: "0.875rem" },
  "&.cm-focused": { outline: "2px solid var(--accent)", outlineOffset: "1px" },
  ".cm-content": { caretColor: "var(--ink)" },
  ".cm-scroller": { fontFamily: "ui-monospace, monospace", maxHeight: "30rem" },
  ".cm-gutters": { background: "var(--ground)", color: "var(--quiet)", border: "none" },
  ".cm-selectionBackground, &.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground":
    { background: "var(--wash)" },
  ".cm-cursor": { borderLeftColor: "var(--ink)" },
  ".cm-tooltip": {
    background: "var(--surface)",
    color: "var(--ink)",
    border: "1px solid var(--line)",
  },
  ".cm-tooltip-autocomplete ul li[aria-selected]": {
    background: "var(--wash)",
    color: "var(--ink)",
  },
  ".cm-completionDetail": { color: "var(--quiet)", fontStyle: "normal" },
  ".cm-diagnostic-error": { borderLeftColor: "var(--bad)" },
});

const COLOURS = syntaxHighlighting(
  HighlightStyle.define([
    { tag: tags.propertyName, color: "var(--accent)" },
    { tag: tags.comment, color: "var(--quiet)", fontStyle: "italic" },
    { tag: tags.definition(tags.propertyName), color: "var(--accent)", fontWeight: "600" },
  ]),
);

/** Edits a definition file, offers what may stand where, and shows what is wrong as one types. */
export function DefinitionEditor(props: {
  label: string;
  file: string;
  text: string;
  schemas: Record<string, Schema>;
  names: Names;
  onChange: (text: string) => void;
}) {
  const place = useRef<HTMLDivElement>(null);
  // The editor is made once; what it asks for later it finds here.
  const latest = useRef(props);
  latest.current = props;
  const editor = useRef<EditorView>(null);
  useEffect(() => {
    if (!place.current) return;
    const view = new EditorView({
      parent: place.current,
      state: EditorState.create({
        doc: latest.current.text,
        extensions: [
          lineNumbers(),
          lintGutter(),
          history(),
          drawSelection(),
          bracketMatching(),
          yaml(),
          COLOURS,
          LOOK,
          autocompletion({ override: [(context) => complete(context, latest.current)] }),
          linter((editor) => check(editor, latest.current.file), { delay: CHECK_AFTER_MILLIS }),
          keymap.of([
            { key: "Tab", run: acceptCompletion },
            ...completionKeymap,
            ...defaultKeymap,
            ...historyKeymap,
          ]),
          EditorView.contentAttributes.of({ "aria-label": latest.current.label, tabindex: "0" }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) latest.current.onChange(update.state.doc.toString());
          }),
        ],
      }),
    });
    editor.current = view;
    return () => view.destroy();
  }, []);
  useEffect(() => {
    const view = editor.current;
    const now = view?.state.doc.toString();
    if (!view || now === undefined || now === props.text) return;
    view.dispatch({ changes: difference(now, props.text) });
  }, [props.text]);
  return <div ref={place} className="mt-2 overflow-hidden rounded border border-line" />;
}

/** What changes one text into another: all between what they begin and end with alike. */
function difference(from: string, to: string) {
  const least = Math.min(from.length, to.length);
  let begin = 0;
  while (begin < least && from[begin] === to[begin]) begin++;
  let end = 0;
  while (end < least - begin && from.at(-1 - end) === to.at(-1 - end)) end++;
  return { from: begin, to: from.length - end, insert: to.slice(begin, to.length - end) };
}

function complete(
  context: CompletionContext,
  known: { schemas: Record<string, Schema>; names: Names },
): CompletionResult | null {
  const text = context.state.doc.toString();
  const found = offers(text, context.pos, known.schemas, known.names);
  if (found.offers.length === 0 || (!context.explicit && found.from === context.pos)) return null;
  return { from: found.from, options: found.offers, validFor: /^[\w.-]*$/ };
}

async function check(editor: EditorView, file: string): Promise<Diagnostic[]> {
  const { problems } = await api.check(file, editor.state.doc.toString());
  return problems.map((problem) => {
    const line = editor.state.doc.line(Math.min(Math.max(1, problem.line), editor.state.doc.lines));
    const from = Math.min(line.to, line.from + Math.max(0, problem.column - 1));
    return {
      from,
      to: Math.max(from, line.to),
      severity: "error",
      message:
        problem.detail + (problem.suggestion ? t` – did you mean ${problem.suggestion}?` : ""),
    };
  });
}
