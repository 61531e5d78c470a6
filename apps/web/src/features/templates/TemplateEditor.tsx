import { Menu, UnstyledButton } from '@mantine/core';
import { mergeAttributes, Node } from '@tiptap/core';
import Link from '@tiptap/extension-link';
import { TextSelection } from '@tiptap/pm/state';
import type { EditorView } from '@tiptap/pm/view';
import {
  type Editor,
  EditorContent,
  NodeViewContent,
  type NodeViewProps,
  NodeViewWrapper,
  ReactNodeViewRenderer,
  useEditor,
} from '@tiptap/react';
import StarterKit from '@tiptap/starter-kit';
import { createContext, useContext, useEffect, useMemo, useRef, useState } from 'react';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import classes from './TemplateEditor.module.css';
import { fromDocument, lineFromDocument, lineToDocument, toDocument } from './template-document.ts';
import { saysOf, type TemplatePlace, type ValueChoice } from './template-place.ts';

const PlaceContext = createContext<TemplatePlace | null>(null);
const usePlace = (): TemplatePlace => useContext(PlaceContext) as TemplatePlace;

/** A value, or a mark of a passage within a line. */
const Insert = Node.create({
  name: 'insert',
  group: 'inline',
  inline: true,
  atom: true,
  addAttributes: () => ({ raw: { default: '' } }),
  parseHTML: () => [{ tag: 'span[data-insert]', getAttrs: (element) => ({ raw: element.getAttribute('data-insert') ?? '' }) }],
  renderHTML: ({ node, HTMLAttributes }) => ['span', mergeAttributes(HTMLAttributes, { 'data-insert': node.attrs.raw })],
  addNodeView: () => ReactNodeViewRenderer(InsertView),
});

function InsertView({ node, selected }: NodeViewProps) {
  const place = usePlace();
  const { text, isMark, isFaulty } = saysOf(String(node.attrs.raw), place);
  return (
    <NodeViewWrapper
      as="span"
      className={classes.chip}
      data-mark={isMark || undefined}
      data-fault={isFaulty || undefined}
      data-here={selected || undefined}
    >
      {text}
    </NodeViewWrapper>
  );
}

/** Passages that are there only when a condition holds, or once for each row. */
const Passage = Node.create({
  name: 'passage',
  group: 'block',
  content: 'block+',
  defining: true,
  addAttributes: () => ({ kind: { default: 'when' }, expression: { default: '' } }),
  parseHTML: () => [{ tag: 'div[data-passage]' }],
  renderHTML: ({ HTMLAttributes }) => ['div', mergeAttributes(HTMLAttributes, { 'data-passage': '' }), 0],
  addNodeView: () => ReactNodeViewRenderer(PassageView),
});

const LEADS = { when: 'only when', else: 'otherwise', each: 'for each of' } as const;

function PassageView({ node, selected, editor, getPos }: NodeViewProps) {
  const place = usePlace();
  const { kind, expression } = node.attrs as { readonly kind: keyof typeof LEADS; readonly expression: string };
  const { text, isFaulty } = kind === 'else' ? { text: '', isFaulty: false } : saysOf(expression, place);
  const select = (): void => {
    const at = getPos();
    if (at !== undefined) editor.commands.setNodeSelection(at);
  };
  return (
    <NodeViewWrapper className={classes.passage} data-here={selected || undefined}>
      <UnstyledButton contentEditable={false} className={classes.lead} data-fault={isFaulty || undefined} onClick={select}>
        ▸ {LEADS[kind]} {text}
      </UnstyledButton>
      <NodeViewContent className={classes.inner} />
    </NodeViewWrapper>
  );
}

const FieldsShown = Node.create({
  name: 'fieldsShown',
  group: 'block',
  atom: true,
  parseHTML: () => [{ tag: 'div[data-fields]' }],
  renderHTML: () => ['div', { 'data-fields': '', class: classes.fields ?? '' }, '▸ every field shown to the receiver'],
});

/**
 * Moves to the beginning or the end of a line by Home and End; whether that was pressed. The browser would select a value that
 * stands there, so that the next key replaced it.
 */
function moveToEdge(view: EditorView, { key, shiftKey, ctrlKey, metaKey, altKey }: KeyboardEvent): boolean {
  if ((key !== 'Home' && key !== 'End') || ctrlKey || metaKey || altKey) return false;
  const { doc, selection, tr } = view.state;
  const { $head, anchor } = selection;
  const to = key === 'End' ? $head.end() : $head.start();
  view.dispatch(tr.setSelection(TextSelection.create(doc, shiftKey ? anchor : to, to)).scrollIntoView());
  return true;
}

type Props = {
  readonly label: string;
  readonly text: string;
  readonly place: TemplatePlace;
  /** One line: values alone, no passages of their own. */
  readonly isLine?: boolean;
  readonly onChange: (text: string) => void;
};

/** A template as it reads, with values as what they are called. Loaded when the first one is opened. */
export function TemplateEditor({ label, text, place, isLine = false, onChange }: Props) {
  const kept = useRef(text);
  const latest = useRef(onChange);
  latest.current = onChange;
  const [selected, setSelected] = useState<Chosen | null>(null);
  const extensions = useMemo(
    () => [
      StarterKit.configure({
        blockquote: false,
        code: false,
        codeBlock: false,
        horizontalRule: false,
        strike: false,
        underline: false,
        link: false,
        trailingNode: false,
        heading: isLine ? false : { levels: [1, 2, 3] },
        ...(isLine
          ? { bulletList: false, orderedList: false, listItem: false, bold: false, italic: false, hardBreak: false }
          : {}),
      }),
      Insert,
      ...(isLine ? [] : [Passage, FieldsShown, Link.configure({ openOnClick: false, protocols: ['http', 'https', 'mailto'] })]),
    ],
    [isLine],
  );
  const editor = useEditor({
    extensions,
    content: (isLine ? lineToDocument(text) : toDocument(text)) as object,
    editorProps: {
      attributes: {
        'aria-label': label,
        role: 'textbox',
        'aria-multiline': String(!isLine),
        class: `${classes.content} ${isLine ? classes.line : ''}`,
      },
      handleKeyDown: (view, event) => isLine && (event.key === 'Enter' || moveToEdge(view, event)),
    },
    onUpdate: ({ editor: own }) => {
      const json = own.getJSON() as never;
      const next = isLine ? lineFromDocument(json) : fromDocument(json);
      // A text that isn't in its settled form is left as it is until something in it is changed.
      if (next === settled(kept.current, isLine)) return;
      kept.current = next;
      latest.current(next);
    },
    onSelectionUpdate: ({ editor: own }) => setSelected(chosenIn(own)),
  });
  useEffect(() => {
    if (!editor || kept.current === text) return;
    kept.current = text;
    editor.commands.setContent((isLine ? lineToDocument(text) : toDocument(text)) as object, { emitUpdate: false });
  }, [editor, text, isLine]);
  if (!editor) return null;
  return (
    <PlaceContext value={place}>
      <div className={classes.editor}>
        <Tools editor={editor} isLine={isLine} place={place} />
        <EditorContent editor={editor} />
        {selected && <ChosenEditor key={selected.at} chosen={selected} editor={editor} place={place} />}
      </div>
    </PlaceContext>
  );
}

/** A text in the form in which the editor writes it. */
const settled = (text: string, isLine: boolean): string =>
  isLine ? lineFromDocument(lineToDocument(text)) : fromDocument(toDocument(text));

type Chosen = { readonly at: number; readonly type: 'insert' | 'passage'; readonly attrs: Readonly<Record<string, string>> };

function chosenIn(editor: Editor): Chosen | null {
  const { selection } = editor.state;
  const node = 'node' in selection ? (selection.node as { type: { name: string }; attrs: Record<string, string> }) : null;
  if (!node || (node.type.name !== 'insert' && node.type.name !== 'passage')) return null;
  return { at: selection.from, type: node.type.name, attrs: node.attrs };
}

function Tools({ editor, isLine, place }: { readonly editor: Editor; readonly isLine: boolean; readonly place: TemplatePlace }) {
  const put = (raw: string): void => void editor.chain().focus().insertContent({ type: 'insert', attrs: { raw } }).run();
  const passage = (kind: string, expression: string): void =>
    void editor
      .chain()
      .focus()
      .insertContent({ type: 'passage', attrs: { kind, expression }, content: [{ type: 'paragraph' }] })
      .run();
  const [table] = place.tables;
  return (
    <div className={classes.tools} role="toolbar" aria-label="Write">
      <Menu withinPortal position="bottom-start">
        <Menu.Target>
          <UnstyledButton className={classes.tool}>+ value</UnstyledButton>
        </Menu.Target>
        <Menu.Dropdown mah={320} style={{ overflowY: 'auto' }}>
          {place.values.map((value: ValueChoice) => (
            <Menu.Item key={value.expression} onClick={() => put(value.expression)}>
              {value.name}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      {isLine ? null : (
        <>
          <Tool
            name="B"
            title="Strong"
            isOn={editor.isActive('bold')}
            onPress={() => editor.chain().focus().toggleBold().run()}
          />
          <Tool
            name="I"
            title="Emphasis"
            isOn={editor.isActive('italic')}
            onPress={() => editor.chain().focus().toggleItalic().run()}
          />
          <Tool
            name="Head"
            title="Heading"
            isOn={editor.isActive('heading')}
            onPress={() => editor.chain().focus().toggleHeading({ level: 2 }).run()}
          />
          <Tool
            name="• List"
            title="List"
            isOn={editor.isActive('bulletList')}
            onPress={() => editor.chain().focus().toggleBulletList().run()}
          />
          <Tool name="+ only when" title="A passage under a condition" onPress={() => passage('when', 'true')} />
          {table && <Tool name="+ for each row" title="A passage for each row" onPress={() => passage('each', table.key)} />}
          <Tool
            name="+ every field"
            title="Every field shown to the receiver"
            onPress={() => editor.chain().focus().insertContent({ type: 'fieldsShown' }).run()}
          />
        </>
      )}
      {place.counted && (
        <Tool name="+ plural" title="Words by a number" onPress={() => put(`#plural ${place.counted}: one | several`)} />
      )}
    </div>
  );
}

function Tool({
  name,
  title,
  isOn = false,
  onPress,
}: {
  readonly name: string;
  readonly title: string;
  readonly isOn?: boolean;
  readonly onPress: () => void;
}) {
  return (
    <UnstyledButton className={classes.tool} title={title} aria-label={title} aria-pressed={isOn} onClick={onPress}>
      {name}
    </UnstyledButton>
  );
}

/** What the chosen value or passage is made of. */
function ChosenEditor({
  chosen,
  editor,
  place,
}: {
  readonly chosen: Chosen;
  readonly editor: Editor;
  readonly place: TemplatePlace;
}) {
  const set = (attrs: Readonly<Record<string, string>>): void => {
    const { tr } = editor.state;
    const node = tr.doc.nodeAt(chosen.at);
    if (node) editor.view.dispatch(tr.setNodeMarkup(chosen.at, undefined, { ...node.attrs, ...attrs }));
  };
  if (chosen.type === 'passage') {
    const { kind, expression } = chosen.attrs as { readonly kind: 'when' | 'else' | 'each'; readonly expression: string };
    if (kind === 'else') return null;
    return (
      <div className={classes.chosen}>
        <ExpressionField
          label={kind === 'when' ? 'This passage is there only when' : 'This passage stands for each of'}
          text={expression}
          scope={place.scope}
          expected={kind === 'when' ? place.condition : undefined}
          isTold
          onKeep={(text) => set({ expression: text })}
        />
      </div>
    );
  }
  const raw = chosen.attrs.raw ?? '';
  const plural = /^#plural ([\s\S]*?):([\s\S]*)$/.exec(raw);
  if (raw.startsWith('#') || raw.startsWith('/')) {
    if (!plural) return null;
    return (
      <div className={classes.chosen}>
        <label className={classes.forms}>
          Words for one, and for several, parted by |
          <input
            defaultValue={(plural[2] ?? '').trim()}
            onBlur={(event) => set({ raw: `#plural ${plural[1]}: ${event.currentTarget.value}` })}
          />
        </label>
        <ExpressionField
          label="The number that decides"
          text={(plural[1] ?? '').trim()}
          scope={place.scope}
          expected={place.number}
          onKeep={(text) => set({ raw: `#plural ${text}:${plural[2]}` })}
        />
      </div>
    );
  }
  return (
    <div className={classes.chosen}>
      <ExpressionField
        label="The value that stands here"
        text={raw}
        scope={place.rowScopeOf(raw) ?? place.scope}
        expected={undefined}
        isTold
        onKeep={(text) => set({ raw: text })}
      />
    </div>
  );
}
