import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { Compartment, EditorState, type Extension } from '@codemirror/state';
import {
  Decoration,
  type DecorationSet,
  EditorView,
  keymap,
  MatchDecorator,
  ViewPlugin,
  type ViewUpdate,
  WidgetType,
} from '@codemirror/view';
import Plus from 'lucide-react/icons/plus';
import { useContext, useEffect, useId, useMemo, useRef, useState } from 'react';
import { GROUP_LABELS, referenceLabel, writeReference } from '../core/template/field-reference.ts';
import { FIELD_FILTERS, type FieldFilter } from '../core/template/filters.ts';
import { headOf, templatePieces } from '../core/template/template.ts';
import { FieldPickerContext, type PickableField } from './field-picker.ts';
import { Popover, PopoverAt } from './Popover.tsx';

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  /** One line only: line breaks become spaces. */
  single?: boolean;
  /** The name the "To check" list knows this field by. */
  name: string;
}

interface OpenChip {
  from: number;
  to: number;
  source: string;
  left: number;
  top: number;
}

class Chip extends WidgetType {
  constructor(
    readonly source: string,
    readonly labels: ReadonlyMap<string, string>,
  ) {
    super();
  }
  override eq(other: Chip) {
    return other.source === this.source;
  }
  override toDOM() {
    const element = document.createElement('span');
    element.className = 'chip cursor-pointer align-baseline';
    const [piece] = templatePieces(this.source);
    if (piece?.kind !== 'field' || !piece.reference) {
      element.textContent = this.source;
      return element;
    }
    element.append(referenceLabel(piece.reference, this.labels));
    for (const filter of piece.filters) {
      const word = document.createElement('span');
      word.className = 'tidying';
      const known = Object.hasOwn(FIELD_FILTERS, filter.name)
        ? FIELD_FILTERS[filter.name as FieldFilter].label
        : filter.name;
      word.textContent = filter.argument ? `${known} “${filter.argument}”` : known;
      element.append(word);
    }
    return element;
  }
  override ignoreEvent() {
    return false;
  }
}

const TOKEN = /\{\{[^{}]*\}\}/g;

function chips(labels: ReadonlyMap<string, string>, open: (chip: OpenChip) => void): Extension {
  const matcher = new MatchDecorator({
    regexp: TOKEN,
    decoration: (match) => Decoration.replace({ widget: new Chip(match[0], labels) }),
  });
  const plugin = ViewPlugin.fromClass(
    class {
      decorations: DecorationSet;
      constructor(view: EditorView) {
        this.decorations = matcher.createDeco(view);
      }
      update(update: ViewUpdate) {
        this.decorations = matcher.updateDeco(update, this.decorations);
      }
    },
    {
      decorations: (self) => self.decorations,
      provide: (self) => EditorView.atomicRanges.of((view) => view.plugin(self)?.decorations ?? Decoration.none),
      eventHandlers: {
        mousedown(event, view) {
          const element = (event.target as HTMLElement).closest<HTMLElement>('.chip');
          if (!element) return false;
          const from = view.posAtDOM(element);
          const source = /^\{\{[^{}]*\}\}/.exec(view.state.sliceDoc(from))?.[0];
          if (!source) return false;
          const box = element.getBoundingClientRect();
          const host = view.dom.getBoundingClientRect();
          open({
            from,
            to: from + source.length,
            source,
            left: Math.min(box.left - host.left, host.width - 190),
            top: box.bottom - host.top + 4,
          });
          return true;
        },
      },
    },
  );
  return plugin;
}

/** A message or line with fields in it as chips. The value is Liquid; nobody has to see it, everybody can. */
export function TokenField({ label, value, onChange, single = false, name }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const look = useRef(new Compartment());
  const picker = useContext(FieldPickerContext);
  const latest = useRef({ onChange, picker });
  const [asText, setAsText] = useState(false);
  const [chip, setChip] = useState<OpenChip | null>(null);
  const id = useId();
  useEffect(() => {
    latest.current = { onChange, picker };
  });

  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once; what changes is handed over below
  useEffect(() => {
    const insert = (text: string) => {
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
          keymap.of([...historyKeymap, ...defaultKeymap]),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ 'aria-labelledby': `${id}-label`, 'data-field': name }),
          look.current.of(chips(picker.labels, setChip)),
          ...(single
            ? [
                EditorState.transactionFilter.of((change) =>
                  change.newDoc.lines > 1
                    ? [
                        change,
                        {
                          changes: {
                            from: 0,
                            to: change.newDoc.length,
                            insert: change.newDoc
                              .toString()
                              .split('\n')
                              .map((line) => line.trim())
                              .filter(Boolean)
                              .join(' '),
                          },
                          sequential: true,
                        },
                      ]
                    : change,
                ),
              ]
            : []),
          EditorView.updateListener.of((update) => {
            if (update.focusChanged && update.view.hasFocus) latest.current.picker.setTarget(insert);
            if (update.docChanged) {
              setChip(null);
              latest.current.onChange(update.state.doc.toString());
            }
          }),
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
          }),
        ],
      }),
    });
    view.current = made;
    return () => made.destroy();
  }, []);

  useEffect(() => {
    const editor = view.current;
    if (editor && editor.state.doc.toString() !== value)
      editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: value } });
  }, [value]);
  useEffect(() => {
    view.current?.dispatch({ effects: look.current.reconfigure(asText ? [] : chips(picker.labels, setChip)) });
  }, [asText, picker.labels]);

  const replaceChip = (source: string) => {
    if (chip) view.current?.dispatch({ changes: { from: chip.from, to: chip.to, insert: source } });
    setChip(null);
    view.current?.focus();
  };
  const addField = (text: string) => {
    view.current?.dispatch(view.current.state.replaceSelection(text));
    view.current?.focus();
  };
  return (
    <div className="mb-3">
      <div className="flex items-end justify-between">
        <span className="field-label" id={`${id}-label`}>
          {label}
        </span>
        <span className="mb-0.5 flex gap-1">
          <Popover
            button={
              <>
                <Plus className="size-3" aria-hidden="true" />
                Field
              </>
            }
            buttonClass="btn btn-ghost btn-xs text-ink-2"
            panelClass="w-64 p-1"
          >
            {(close) => (
              <FieldMenu
                fields={picker.fields}
                onPick={(text) => {
                  close();
                  addField(text);
                }}
              />
            )}
          </Popover>
          <button
            type="button"
            className="btn btn-ghost btn-xs text-ink-2"
            aria-pressed={asText}
            onClick={() => setAsText(!asText)}
          >
            {asText ? 'Show chips' : 'Write as text'}
          </button>
        </span>
      </div>
      <div ref={host} className="relative" />
      {chip && <ChipMenu chip={chip} host={host.current} onPick={replaceChip} onClose={() => setChip(null)} />}
    </div>
  );
}

/** Fields to put in, by their names; typed in, only those that fit are left. */
function FieldMenu({ fields, onPick }: { fields: readonly PickableField[]; onPick: (text: string) => void }) {
  const [typed, setTyped] = useState('');
  const wanted = typed.trim().toLowerCase();
  const shown = fields.filter((field) => `${field.label} ${GROUP_LABELS[field.group]}`.toLowerCase().includes(wanted));
  if (fields.length === 0)
    return <p className="p-2 text-ink-2">Catch a sample lead first; then its fields stand here.</p>;
  return (
    <>
      {fields.length > 8 && (
        <input
          className="input input-xs mb-1"
          aria-label="Find a field"
          placeholder="Find a field"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
      )}
      <ul>
        {shown.length === 0 && <li className="p-2 text-ink-2">None of that name.</li>}
        {shown.map((field) => (
          <li key={writeReference(field)}>
            <button
              type="button"
              className="w-full rounded px-2 py-1 text-left hover:bg-base-200"
              onClick={() => onPick(`{{ ${writeReference(field)} }}`)}
            >
              <span className="font-semibold text-primary">{field.label}</span>{' '}
              <span className="text-xs text-ink-2">{GROUP_LABELS[field.group]}</span>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

function ChipMenu({
  chip,
  host,
  onPick,
  onClose,
}: {
  chip: OpenChip;
  host: HTMLElement | null;
  onPick: (source: string) => void;
  onClose: () => void;
}) {
  const [piece] = templatePieces(chip.source);
  const filters = piece?.kind === 'field' ? piece.filters : [];
  const head = headOf(chip.source);
  const [fallback, setFallback] = useState(filters.find((filter) => filter.name === 'default')?.argument ?? '');
  const write = (list: { name: string; argument: string | null }[]) =>
    onPick(
      `{{ ${[head, ...list.map(({ name, argument }) => (argument === null ? name : `${name}: ${/^\d+$/.test(argument) ? argument : `"${argument.replaceAll('"', '')}"`}`))].join(' | ')} }}`,
    );
  const toggle = (name: string) =>
    write(
      filters.some((filter) => filter.name === name)
        ? filters.filter((filter) => filter.name !== name)
        : [...filters, { name, argument: null }],
    );
  const at = useMemo(
    () => ({
      getBoundingClientRect: () => {
        const box = host?.getBoundingClientRect();
        return new DOMRect((box?.left ?? 0) + chip.left, (box?.top ?? 0) + chip.top, 1, 1);
      },
    }),
    [host, chip],
  );
  return (
    <PopoverAt at={at} label="Tidy this field" panelClass="w-52 p-1" onClose={onClose}>
      {Object.entries(FIELD_FILTERS)
        .filter(([, filter]) => filter.takes === null)
        .map(([name, filter]) => (
          <button
            key={name}
            type="button"
            role="menuitemcheckbox"
            aria-checked={filters.some((one) => one.name === name)}
            className="flex w-full items-center gap-2 rounded px-2 py-1 text-left hover:bg-base-200"
            onClick={() => toggle(name)}
          >
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              readOnly
              tabIndex={-1}
              checked={filters.some((one) => one.name === name)}
            />
            {filter.label}
          </button>
        ))}
      <form
        className="flex items-center gap-1 px-2 py-1"
        onSubmit={(event) => {
          event.preventDefault();
          write([
            ...filters.filter((filter) => filter.name !== 'default'),
            ...(fallback ? [{ name: 'default', argument: fallback }] : []),
          ]);
        }}
      >
        <input
          className="input input-xs"
          aria-label="If empty, say"
          placeholder="if empty, say"
          value={fallback}
          onChange={(event) => setFallback(event.target.value)}
        />
        <button type="submit" className="btn btn-plain btn-xs">
          Use
        </button>
      </form>
      <div className="flex justify-between border-t border-base-300 pt-1">
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => onPick('')}>
          Take out
        </button>
        <button type="button" className="btn btn-ghost btn-xs" onClick={onClose}>
          Close
        </button>
      </div>
    </PopoverAt>
  );
}
