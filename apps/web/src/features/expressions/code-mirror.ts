import {
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  closeBrackets,
  closeBracketsKeymap,
  completionKeymap,
  type Completion as Offered,
} from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { bracketMatching, HighlightStyle, StreamLanguage, type StreamParser, syntaxHighlighting } from '@codemirror/language';
import { linter, type Diagnostic as Marked } from '@codemirror/lint';
import type { Extension } from '@codemirror/state';
import { EditorView, hoverTooltip, keymap } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import {
  type Completion,
  checkExpression,
  completionsAt,
  type Diagnostic,
  describeBuiltin,
  describeDiagnostic,
  describeType,
  findBuiltin,
  howToMend,
  parseExpression,
  type Scope,
  type Type,
  typeAt,
  type Wording,
} from '@ypomet/core';

const WORDS = /^(?:and|or|not|if|then|else|some|every|for|in|return|satisfies|between|true|false|null)\b/;

/** Colours an expression as it is written: words of the language, texts, numbers, names. What it means is the core's to say. */
const tokens: StreamParser<{ isInComment: boolean }> = {
  startState: () => ({ isInComment: false }),
  token: (stream, state) => {
    if (state.isInComment || stream.match('/*')) {
      state.isInComment = !stream.match(/^.*?\*\//);
      if (state.isInComment) stream.skipToEnd();
      return 'comment';
    }
    if (stream.match(/^\/\/.*/)) return 'comment';
    if (stream.match(/^@?"(?:[^"\\]|\\.)*"?/)) return 'string';
    if (stream.match(/^\d[\d.]*/)) return 'number';
    if (stream.match(WORDS)) return 'keyword';
    if (stream.match(/^[A-Za-z_]\w*(?: [a-z]+)*(?=\()/) || stream.match(/^[A-Za-z_]\w*/)) return 'variableName';
    stream.next();
    return null;
  },
};

const colours = HighlightStyle.define([
  { tag: tags.keyword, color: 'var(--plum)', fontWeight: '600' },
  { tag: tags.string, color: 'var(--teal)' },
  { tag: tags.number, color: 'var(--slate)' },
  { tag: tags.comment, color: 'var(--ink-soft)', fontStyle: 'italic' },
]);

const theme = EditorView.theme({
  '&': {
    fontSize: '13px',
    backgroundColor: 'var(--sheet)',
    color: 'var(--ink)',
    border: '1px solid var(--rule-strong)',
    borderRadius: '4px',
  },
  '&.cm-focused': { outline: '2px solid var(--focus)', outlineOffset: '0' },
  '.cm-content': {
    fontFamily: 'var(--mantine-font-family-monospace)',
    caretColor: 'var(--ink)',
    padding: '6px 0',
    minHeight: '34px',
  },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '.cm-scroller': { maxHeight: '260px', overflow: 'auto', lineHeight: '1.5' },
  '&.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground, .cm-selectionBackground': {
    backgroundColor: 'var(--band)',
  },
  '.cm-tooltip': {
    backgroundColor: 'var(--sheet)',
    color: 'var(--ink)',
    border: '1px solid var(--rule-strong)',
    borderRadius: '4px',
  },
  '.cm-tooltip-autocomplete > ul > li[aria-selected]': { backgroundColor: 'var(--teal-soft)', color: 'var(--ink)' },
  '.cm-completionDetail': { color: 'var(--ink-soft)', fontStyle: 'normal', marginLeft: '10px' },
  '.cm-matchingBracket': { backgroundColor: 'var(--teal-soft) !important' },
  '.cm-type': { padding: '3px 8px', fontSize: '12.5px' },
});

/** What the editor asks the core, with the scope as it is now. */
export type Asked = {
  readonly scope: Scope;
  readonly expected: Type | undefined;
  readonly wording: Wording;
  readonly faults: (text: string) => readonly Diagnostic[];
};

function offered({ kind, text, detail }: Completion, wording: Wording): Offered {
  const isFunction = kind === 'function';
  const name = kind === 'name' ? wording.nameOf([text]) : null;
  const words = typeof detail === 'string' ? detail : detail ? describeType(detail) : null;
  const told = [name === text ? null : name, words].filter((part) => part !== null && part !== '').join(' · ');
  return {
    label: text,
    type: kind === 'option' ? 'constant' : isFunction ? 'function' : 'variable',
    ...(told === '' ? {} : { detail: told }),
    ...(isFunction ? { info: describeBuiltin(text.replace(/\($/, '')) } : {}),
  };
}

const complete =
  (asked: () => Asked) =>
  (context: CompletionContext): CompletionResult | null => {
    // Asked for a moment after typing: whoever has left by then is offered nothing.
    if (context.view && !context.view.hasFocus) return null;
    const { scope, wording } = asked();
    const text = context.state.doc.toString();
    const { span, items } = completionsAt(text, context.pos, scope);
    if (items.length === 0 || (!context.explicit && span.start === span.end && !/[."]$/.test(text.slice(0, context.pos))))
      return null;
    return { from: span.start, to: span.end, options: items.map((item) => offered(item, wording)), filter: false };
  };

function marked(one: Diagnostic, length: number): Marked {
  const from = Math.min(one.span?.start ?? 0, length);
  const to = Math.max(from, Math.min(one.span?.end ?? length, length));
  const { suggestion } = one.params;
  return {
    from,
    to,
    severity: 'error',
    message: `${describeDiagnostic(one)} ${howToMend(one)}`,
    ...(typeof suggestion === 'string'
      ? {
          actions: [
            {
              name: `Use ${suggestion}`,
              apply: (view, start, end) => {
                const isText = view.state.sliceDoc(start, start + 1) === '"';
                view.dispatch({ changes: { from: start, to: end, insert: isText ? `"${suggestion}"` : suggestion } });
              },
            },
          ],
        }
      : {}),
  };
}

const hover = (asked: () => Asked): Extension =>
  hoverTooltip((view, position) => {
    const { scope, wording } = asked();
    const parsed = parseExpression(view.state.doc.toString());
    const found = parsed.ok ? typeAt(checkExpression(parsed.value, scope), position) : null;
    if (!found) return null;
    const { node, typing } = found;
    const name = node.kind === 'name' ? `${wording.nameOf([node.name])}: ` : '';
    const does = node.kind === 'call' && findBuiltin(node.name) ? ` · ${describeBuiltin(node.name)}` : '';
    return {
      pos: node.span.start,
      end: node.span.end,
      create: () => {
        const dom = document.createElement('div');
        dom.className = 'cm-type';
        dom.textContent = `${name}${describeType(typing.type)}${typing.nullable ? ', or empty' : ''}${does}`;
        return { dom };
      },
    };
  });

/** All that an expression's editor has. Tab leaves it: it isn't a text of many lines. */
export function expressionExtensions(
  label: string,
  asked: () => Asked,
  onChange: (text: string) => void,
  onFormat: (view: EditorView) => boolean,
): Extension {
  return [
    history(),
    closeBrackets(),
    bracketMatching(),
    StreamLanguage.define(tokens),
    syntaxHighlighting(colours),
    autocompletion({ override: [complete(asked)], icons: false }),
    linter(
      (view) =>
        asked()
          .faults(view.state.doc.toString())
          .map((one) => marked(one, view.state.doc.length)),
      { delay: 120 },
    ),
    hover(asked),
    keymap.of([
      { key: 'Shift-Alt-f', run: onFormat },
      ...closeBracketsKeymap,
      ...completionKeymap,
      ...historyKeymap,
      ...defaultKeymap,
    ]),
    EditorView.lineWrapping,
    EditorView.contentAttributes.of({ 'aria-label': label, role: 'textbox', 'aria-multiline': 'true' }),
    EditorView.updateListener.of((update) => {
      if (update.docChanged) onChange(update.state.doc.toString());
    }),
    theme,
  ];
}
