import type { ComponentPropsWithoutRef, ReactNode } from 'react';

/** What every labelled field has. What is not named goes to the field itself. */
interface Labelled {
  label: ReactNode;
  /** Said below the field, or below the words of a tick. */
  note?: ReactNode | undefined;
  /** The name the "To check" list knows it by. */
  field?: string | undefined;
  /** How the label stands among others. */
  block?: string | undefined;
  small?: boolean | undefined;
}
type Rest<Tag extends 'input' | 'select' | 'textarea'> = Omit<
  ComponentPropsWithoutRef<Tag>,
  'value' | 'onChange' | 'checked' | 'children'
>;

function Label({ label, note, block = 'mb-3 block', children }: Omit<Labelled, 'field'> & { children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is what it is given.
    <label className={block}>
      <span className="field-label">{label}</span>
      {children}
      {note && <span className="block text-note text-ink-2">{note}</span>}
    </label>
  );
}
/** What is the label's, and what is the field's own. */
function apart<Props extends Labelled & { className?: string | undefined }>(
  kind: 'input' | 'select' | 'textarea',
  props: Props,
) {
  const { label, note, field, block, small, className, ...own } = props;
  const looks = [kind, small ? `${kind}-sm` : '', className ?? ''].filter(Boolean).join(' ');
  return { frame: { label, note, block }, own: { ...own, className: looks, 'data-field': field } };
}

/** A labelled list to choose one from: of `options`, or of the elements given. */
export function Choice<T extends string>({
  value,
  options,
  onChange,
  children,
  ...props
}: Labelled &
  Rest<'select'> & {
    value: T;
    options?: readonly (readonly [value: T, words: string])[];
    onChange: (value: T) => void;
    children?: ReactNode;
  }) {
  const { frame, own } = apart('select', props);
  return (
    <Label {...frame}>
      <select {...own} value={value} onChange={(event) => onChange(event.target.value as T)}>
        {children ??
          options?.map(([one, words]) => (
            <option key={one} value={one}>
              {words}
            </option>
          ))}
      </select>
    </Label>
  );
}

/** A labelled line of text; of 200 characters at most where nothing is said. */
export function Line({
  value,
  onChange,
  ...props
}: Labelled & Rest<'input'> & { value: string | number; onChange: (value: string) => void }) {
  const { frame, own } = apart('input', props);
  return (
    <Label {...frame}>
      <input
        maxLength={200}
        autoComplete="off"
        {...own}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </Label>
  );
}

/** A labelled field of several lines. */
export function Area({
  value,
  onChange,
  ...props
}: Labelled & Rest<'textarea'> & { value: string; onChange: (value: string) => void }) {
  const { frame, own } = apart('textarea', props);
  return (
    <Label {...frame}>
      <textarea {...own} value={value} onChange={(event) => onChange(event.target.value)} />
    </Label>
  );
}

/** Something that is so or not. */
export function Tick({
  label,
  note,
  field,
  block,
  value,
  onChange,
  ...rest
}: Labelled & Rest<'input'> & { value: boolean; onChange: (value: boolean) => void }) {
  return (
    <label className={block ?? (note ? 'mb-3 flex items-start gap-2' : 'mb-2 flex items-center gap-2 text-note')}>
      <input
        {...rest}
        type="checkbox"
        className={`checkbox checkbox-sm ${note ? 'mt-0.5' : ''}`}
        checked={value}
        data-field={field}
        onChange={(event) => onChange(event.target.checked)}
      />
      {note ? (
        <span>
          {label}
          <span className="block text-note text-ink-2">{note}</span>
        </span>
      ) : (
        label
      )}
    </label>
  );
}

/** A line of text whose name stands in it while it is empty, for where a label has no room. */
export function Bare({
  label,
  tiny = false,
  className = '',
  value,
  onChange,
  ...rest
}: Rest<'input'> & { label: string; tiny?: boolean; value: string | number; onChange: (value: string) => void }) {
  return (
    <input
      placeholder={label}
      autoComplete="off"
      {...rest}
      className={['input', tiny ? 'input-xs' : 'input-sm', className].join(' ').trim()}
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
