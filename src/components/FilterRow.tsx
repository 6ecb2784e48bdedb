import X from 'lucide-react/icons/x';
import { readReference, writeReference } from '../core/template/field-reference.ts';
import type { Argument, FilterCall } from '../core/template/filter-call.ts';
import type { Made, Parameter } from '../core/template/filters/filter.ts';
import { filterOf } from '../core/template/filters/registry.ts';
import { FieldChoice } from './FieldChoice.tsx';
import { Bare } from './fields.tsx';
import { AddOne, TakeAway } from './row-buttons.tsx';

interface Props {
  call: FilterCall;
  /** What comes of it for the sample. */
  result: Made;
  onChange: (args: Argument[]) => void;
  onRemove: () => void;
}

/** What was chosen: a field, or a text to be typed. */
const fieldOrText = (written: string): Argument => {
  const reference = readReference(written);
  return reference ? { reference } : { text: '' };
};
const textOf = (arg: Argument | undefined): string => (arg && 'text' in arg ? arg.text : '');

/** One thing that is done with a field: what it must be told, and what comes of it. */
export function FilterRow({ call, result, onChange, onRemove }: Props) {
  const filter = filterOf(call.name);
  const label = filter?.label ?? call.name;
  const set = (index: number, arg: Argument) => {
    const next = [...call.args];
    while (next.length < index) next.push({ text: '' });
    next[index] = arg;
    onChange(next);
  };
  return (
    <li className="mb-1 rounded-lg border border-base-300 p-1.5">
      <div className="flex items-center gap-1">
        <span className="grow text-note font-semibold">{label}</span>
        <button type="button" className="btn btn-ghost btn-xs" aria-label={`No longer: ${label}`} onClick={onRemove}>
          <X className="size-3" aria-hidden="true" />
        </button>
      </div>
      {filter?.takes.map((parameter, i) =>
        parameter.takes === 'pairs' ? (
          <PairRows key={parameter.label} args={call.args} onChange={onChange} />
        ) : (
          <Box
            key={parameter.label}
            parameter={parameter}
            arg={call.args[i] ?? { text: parameter.first }}
            onChange={(arg) => set(i, arg)}
          />
        ),
      )}
      <p className="mt-0.5 text-note break-words" aria-live="polite">
        <span className="text-ink-2">gives </span>
        {result.value === '' ? <span className="text-ink-2">nothing</span> : <b>{result.value.slice(0, 200)}</b>}
        {result.problem && <span className="text-warning"> ({result.problem})</span>}
      </p>
    </li>
  );
}

function Box({
  parameter: { label, takes },
  arg,
  onChange,
}: {
  parameter: Parameter;
  arg: Argument;
  onChange: (arg: Argument) => void;
}) {
  if (typeof takes === 'object')
    return (
      <label className="mt-1 flex items-center gap-2">
        <span className="w-24 shrink-0 text-xs text-ink-2">{label}</span>
        <select
          className="select select-xs"
          value={textOf(arg)}
          onChange={(event) => onChange({ text: event.target.value })}
        >
          {takes.map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </select>
      </label>
    );
  const isField = 'reference' in arg;
  return (
    <div className="mt-1 flex items-center gap-2">
      <span className="w-24 shrink-0 text-xs text-ink-2" aria-hidden="true">
        {label}
      </span>
      {!isField && (
        <Bare
          tiny
          className="min-w-0 grow"
          label={label}
          inputMode={takes === 'number' ? 'numeric' : undefined}
          value={textOf(arg)}
          onChange={(text) => onChange({ text })}
        />
      )}
      {takes === 'value' && (
        <div className={isField ? 'min-w-0 grow' : 'w-24 shrink-0'}>
          <FieldChoice
            label={`${label}, of a field`}
            none="or a field"
            value={isField ? writeReference(arg.reference) : ''}
            others={isField ? [['', 'Type it instead']] : []}
            onChange={(written) => onChange(fieldOrText(written))}
          />
        </div>
      )}
    </div>
  );
}

/** Pairs of a table, and what is said for all others. */
function PairRows({ args, onChange }: { args: readonly Argument[]; onChange: (args: Argument[]) => void }) {
  const odd = args.length % 2 === 1;
  const pairs = args.slice(0, odd ? -1 : undefined);
  const rest = odd ? [args.at(-1)!] : [];
  const set = (index: number, text: string) =>
    onChange([...pairs.map((one, i) => (i === index ? { text } : one)), ...rest]);
  return (
    <>
      {pairs.map((arg, i) =>
        i % 2 === 1 ? null : (
          // biome-ignore lint/suspicious/noArrayIndexKey: lines have no name of their own
          <div key={i} className="mt-1 flex items-center gap-1">
            <Bare
              tiny
              label={`If it is, line ${i / 2 + 1}`}
              placeholder="if it is"
              value={textOf(arg)}
              onChange={(text) => set(i, text)}
            />
            <Bare
              tiny
              label={`Say, line ${i / 2 + 1}`}
              placeholder="say"
              value={textOf(pairs[i + 1])}
              onChange={(text) => set(i + 1, text)}
            />
            <TakeAway
              label={`Remove line ${i / 2 + 1}`}
              onClick={() => onChange([...pairs.filter((_, j) => j !== i && j !== i + 1), ...rest])}
            />
          </div>
        ),
      )}
      <div className="mt-1 flex items-center gap-2">
        <AddOne onClick={() => onChange([...pairs, { text: '' }, { text: '' }, ...rest])}>Line</AddOne>
        <Bare
          tiny
          className="min-w-0 grow"
          label="For all others, say"
          placeholder="else: as it is"
          value={textOf(rest[0])}
          onChange={(text) => onChange(text === '' ? [...pairs] : [...pairs, { text }])}
        />
      </div>
    </>
  );
}
