import { EditorState } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { layOutExpression, parseExpression } from '@ypomet/core';
import { useEffect, useRef } from 'react';
import { type Asked, expressionExtensions } from './code-mirror.ts';

type Props = {
  readonly label: string;
  readonly text: string;
  readonly asked: Asked;
  readonly autoFocus?: boolean;
  readonly onChange: (text: string) => void;
};

const hasComment = (text: string): boolean => /\/\/|\/\*/.test(text.replace(/"(?:[^"\\]|\\.)*"/g, ''));

/** Lays an expression out on lines. One with comments stays as it is: they would be lost. */
function format(view: EditorView): boolean {
  const text = view.state.doc.toString();
  const parsed = parseExpression(text);
  if (!parsed.ok || hasComment(text)) return false;
  view.dispatch({ changes: { from: 0, to: text.length, insert: layOutExpression(parsed.value) } });
  return true;
}

/** The text of an expression: highlighted, completed, explained under the pointer, with what is wrong marked as one types. */
export function ExpressionEditor({ label, text, asked, autoFocus = false, onChange }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const latest = useRef({ asked, onChange });
  latest.current = { asked, onChange };
  const first = useRef({ text, label, autoFocus });
  useEffect(() => {
    if (!host.current) return;
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: first.current.text,
        extensions: expressionExtensions(
          first.current.label,
          () => latest.current.asked,
          (typed) => latest.current.onChange(typed),
          format,
        ),
      }),
    });
    view.current = made;
    if (first.current.autoFocus) made.focus();
    return () => made.destroy();
  }, []);
  useEffect(() => {
    const own = view.current;
    const before = own?.state.doc.toString();
    if (own && before !== undefined && before !== text) own.dispatch({ changes: { from: 0, to: before.length, insert: text } });
  }, [text]);
  return <div ref={host} />;
}
