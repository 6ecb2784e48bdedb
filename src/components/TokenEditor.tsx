import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { Annotation, Compartment, EditorState } from '@codemirror/state';
import { EditorView, keymap } from '@codemirror/view';
import { type RefObject, useContext, useEffect, useRef, useState } from 'react';
import { ChipMenu } from './ChipMenu.tsx';
import { chips, type OpenChip } from './chips.ts';
import { FieldPickerContext } from './field-picker.ts';
import { fieldsBySlash } from './fields-by-slash.ts';

export interface TokenEditorProps {
  /** The id of what names it. */
  labelledBy: string;
  value: string;
  onChange: (value: string) => void;
  single: boolean;
  field: string;
  /** Shown as it is written, without chips. */
  asText: boolean;
  /** What stood here until now had the keyboard. */
  focused: boolean;
  /** Puts a text where the cursor is. */
  insert: RefObject<((text: string) => void) | null>;
}

const OF_THE_CHIP = Annotation.define<boolean>();

/** What is pasted with line breaks becomes one line. */
const ONE_LINE = EditorState.transactionFilter.of((change) => {
  if (change.newDoc.lines <= 1) return change;
  const lines = change.newDoc.toString().split('\n');
  const insert = lines
    .map((line) => line.trim())
    .filter(Boolean)
    .join(' ');
  return [change, { changes: { from: 0, to: change.newDoc.length, insert }, sequential: true }];
});

const look = (single: boolean) =>
  EditorView.theme({
    '&': {
      fontSize: '14px',
      backgroundColor: 'var(--field-ground)',
      border: '1px solid var(--field-line)',
      borderRadius: 'var(--radius-field)',
    },
    '&.cm-focused': { outline: '2px solid var(--color-primary)', outlineOffset: '1px' },
    '.cm-scroller': { fontFamily: 'var(--font-sans)', lineHeight: '1.75' },
    '.cm-content': {
      padding: '5px 0',
      caretColor: 'var(--color-base-content)',
      minHeight: single ? '20px' : '92px',
    },
    '.cm-line': { padding: '0 9px' },
  });

/** The field in which a message is written, its references shown as chips. */
export default function TokenEditor({
  labelledBy,
  value,
  onChange,
  single,
  field,
  asText,
  focused,
  insert,
}: TokenEditorProps) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const shown = useRef(new Compartment());
  const picker = useContext(FieldPickerContext);
  const latest = useRef({ onChange, picker });
  const [chip, setChip] = useState<OpenChip | null>(null);
  useEffect(() => {
    latest.current = { onChange, picker };
  });

  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once; what changes is handed over below
  useEffect(() => {
    const put = (text: string) => {
      const editor = view.current;
      if (!editor) return;
      editor.dispatch(editor.state.replaceSelection(text), { scrollIntoView: true });
      editor.focus();
    };
    const made = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: value,
        extensions: [
          history(),
          fieldsBySlash(() => latest.current.picker.fields),
          keymap.of([...historyKeymap, ...defaultKeymap]),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ 'aria-labelledby': labelledBy, 'data-field': field }),
          shown.current.of(chips(picker.labels, setChip)),
          ...(single ? [ONE_LINE] : []),
          EditorView.updateListener.of((update) => {
            if (update.focusChanged && update.view.hasFocus) latest.current.picker.setTarget(put);
            if (update.docChanged) {
              // What is done with a chip is written while its menu stands open.
              if (!update.transactions.some((one) => one.annotation(OF_THE_CHIP))) setChip(null);
              latest.current.onChange(update.state.doc.toString());
            }
          }),
          look(single),
        ],
      }),
    });
    view.current = made;
    insert.current = put;
    if (focused) made.focus();
    return () => made.destroy();
  }, []);

  useEffect(() => {
    const editor = view.current;
    if (editor && editor.state.doc.toString() !== value)
      editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: value } });
  }, [value]);
  useEffect(() => {
    view.current?.dispatch({ effects: shown.current.reconfigure(asText ? [] : chips(picker.labels, setChip)) });
  }, [asText, picker.labels]);

  const replaceChip = (source: string) => {
    if (!chip) return;
    view.current?.dispatch({
      changes: { from: chip.from, to: chip.to, insert: source },
      annotations: OF_THE_CHIP.of(true),
    });
    setChip(source === '' ? null : { ...chip, to: chip.from + source.length });
    if (source === '') view.current?.focus();
  };
  return (
    <>
      <div ref={host} className="relative" />
      {chip && <ChipMenu chip={chip} host={host.current} onChange={replaceChip} onClose={() => setChip(null)} />}
    </>
  );
}
