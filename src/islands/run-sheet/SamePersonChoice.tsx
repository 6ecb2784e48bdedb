import UsersRound from 'lucide-react/icons/users-round';
import { type Rules, SAME_PERSON } from '../../core/workflow/rules.ts';

const WORDS: Record<Rules['samePerson'], string> = {
  nothing: 'Known person: do nothing',
  by_source: 'Known person: by what comes in',
  update_only: 'Known person: update, no repeat',
  run_again_after: 'Known person: again after some days',
  run_again: 'Known person: run again',
};

/** What happens when a known person comes in again. */
export function SamePersonChoice({
  value,
  onChange,
}: {
  value: Rules['samePerson'];
  onChange: (value: Rules['samePerson']) => void;
}) {
  return (
    <label className="pill !bg-base-100">
      <UsersRound className="size-3.5" aria-hidden="true" />
      <span className="sr-only">When a known person comes in again</span>
      <select
        className="cursor-pointer bg-transparent"
        value={value}
        onChange={(event) => onChange(event.target.value as Rules['samePerson'])}
      >
        {SAME_PERSON.map((one) => (
          <option key={one} value={one}>
            {WORDS[one]}
          </option>
        ))}
      </select>
    </label>
  );
}
