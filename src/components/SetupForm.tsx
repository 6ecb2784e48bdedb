import type { ReactNode } from 'react';
import { Notice } from '../client/Notice.tsx';
import { useAction } from '../client/use-action.ts';
import { within } from '../client/within.ts';
import type { FormConnection, SourceFormProps } from '../sources/source-form.ts';
import { Choice } from './fields.tsx';

/** The frame of a setup form: its button, and what went wrong. */
export function SetupForm({
  button,
  ready,
  input,
  create,
  children,
}: {
  button: string;
  ready: boolean;
  input: () => Record<string, unknown>;
  create: SourceFormProps['create'];
  children: ReactNode;
}) {
  const { act, busy, told } = useAction();
  return (
    <form
      className="sheet-card p-4"
      onSubmit={(event) => {
        event.preventDefault();
        void act(() => create(input()));
      }}
    >
      {children}
      <Notice told={told} className="mb-3" />
      <button className="btn btn-primary" type="submit" disabled={!ready || busy}>
        {button}
      </button>
    </form>
  );
}

/** Which account of a service; says what to do when there is none. */
export function ConnectionChoice({
  connections,
  kind,
  label,
  value,
  onChange,
}: {
  connections: FormConnection[];
  kind: string;
  label: string;
  value: string;
  onChange: (id: string) => void;
}) {
  const mine = connections.filter((connection) => connection.kind === kind);
  if (mine.length === 0)
    return (
      <p className="notice mb-3">
        No {label.toLowerCase()} is connected yet.{' '}
        <a className="link" href={within('/connections')}>
          Connect one
        </a>
        , then come back.
      </p>
    );
  return (
    <Choice label={label} value={value} onChange={onChange}>
      {mine.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </Choice>
  );
}

export const firstOf = (connections: FormConnection[], kind: string): string =>
  connections.find((connection) => connection.kind === kind)?.id ?? '';

/** One of a few, side by side. */
export function OneOf<Value extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: Value;
  options: readonly (readonly [value: Value, words: string, about?: string])[];
  onChange: (value: Value) => void;
}) {
  return (
    <fieldset className="mb-3">
      <legend className="field-label">{label}</legend>
      {options.map(([option, words, about]) => (
        <label key={option} className="flex items-start gap-2 py-1">
          <input
            type="radio"
            className="radio radio-sm mt-0.5"
            name={label}
            checked={value === option}
            onChange={() => onChange(option)}
          />
          <span>
            {words}
            {about && <span className="block text-note text-ink-2">{about}</span>}
          </span>
        </label>
      ))}
    </fieldset>
  );
}

export const EVERY = [1, 5, 15, 60] as const;
export const everyWords = (minutes: number): string =>
  minutes === 0
    ? 'at once'
    : minutes === 1
      ? 'every minute'
      : minutes === 60
        ? 'every hour'
        : `every ${minutes} minutes`;

export function EveryChoice({
  value,
  onChange,
  atOnce = false,
}: {
  value: number;
  onChange: (minutes: number) => void;
  atOnce?: boolean;
}) {
  return (
    <Choice label="How often to look" value={String(value)} onChange={(text) => onChange(Number(text))}>
      {(atOnce ? [0, ...EVERY] : EVERY).map((minutes) => (
        <option key={minutes} value={minutes}>
          {everyWords(minutes).replace(/^./, (c) => c.toUpperCase())}
        </option>
      ))}
    </Choice>
  );
}
