import { useContext, useId, useRef, useState } from 'react';
import { writeReference } from '../core/template/field-reference.ts';
import { writeOutput } from '../core/template/filter-call.ts';
import { AddPopover } from './AddPopover.tsx';
import { CardLine } from './CardLine.tsx';
import { FieldMenu } from './FieldMenu.tsx';
import { FieldPickerContext } from './field-picker.ts';
import { MakeInPlace } from './MakeInPlace.tsx';
import { useTokenEditor } from './use-token-editor.ts';

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  /** One line only: line breaks become spaces. */
  single?: boolean;
  /** The name the "To check" list knows this field by. */
  field: string;
}

/** A message or line with fields in it as chips. The value is Liquid; nobody has to see it, everybody can. */
export function TokenField({ label, value, onChange, single = false, field }: Props) {
  const picker = useContext(FieldPickerContext);
  const [asText, setAsText] = useState(false);
  const insert = useRef<((text: string) => void) | null>(null);
  const hadKeyboard = useRef(false);
  const Editor = useTokenEditor();
  const id = useId();
  const labelledBy = `${id}-label`;
  return (
    <div className="mb-3">
      <div className="flex items-end justify-between">
        <span className="field-label" id={labelledBy}>
          {label}
        </span>
        <span className="mb-0.5 flex gap-1">
          <AddPopover what="Field" tiny buttonClass="btn btn-ghost btn-xs text-ink-2" panelClass="w-72 p-1">
            {(close) => (
              <>
                <FieldMenu
                  fields={picker.fields}
                  onPick={(reference) => {
                    close();
                    insert.current?.(writeOutput(reference, []));
                  }}
                />
                {picker.ask && (
                  <div className="border-t border-base-300 px-1 pt-2">
                    <MakeInPlace
                      label={`A new question in “${picker.ask.form}”`}
                      make={async (label) => {
                        const field = await picker.ask!.make(label);
                        close();
                        insert.current?.(writeOutput(writeReference(field), []));
                      }}
                    />
                  </div>
                )}
              </>
            )}
          </AddPopover>
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
      {Editor ? (
        <Editor {...{ labelledBy, value, onChange, single, field, asText, insert }} focused={hadKeyboard.current} />
      ) : (
        // biome-ignore lint/a11y/useSemanticElements: what stands in it is chips too, which no field of HTML can show.
        <div
          role="textbox"
          tabIndex={0}
          aria-multiline={!single}
          aria-labelledby={labelledBy}
          data-field={field}
          className={`rounded-field border border-field-line bg-(--field-ground) px-[9px] py-[5px] leading-[1.75] [overflow-wrap:anywhere] whitespace-pre-wrap ${single ? 'min-h-[36px]' : 'min-h-[104px]'}`}
          onFocus={() => {
            hadKeyboard.current = true;
          }}
          onBlur={() => {
            hadKeyboard.current = false;
          }}
        >
          <CardLine line={value} labels={picker.labels} />
        </div>
      )}
    </div>
  );
}
