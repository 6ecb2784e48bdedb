import { Choice, Tick } from '../../components/fields.tsx';
import {
  ROLE_WORDS,
  ROLES,
  type Role,
  WHOSE_LEADS,
  WHOSE_LEADS_WORDS,
  type WhoseLeads,
} from '../../core/people/rights.ts';

export interface Place {
  role: Role;
  whoseLeads: WhoseLeads;
  teams: string[];
}

/** What somebody is to be here: their role, whose leads they work with, their teams. */
export function MayFields({
  value,
  teams,
  onChange,
}: {
  value: Place;
  teams: readonly { id: string; name: string }[];
  onChange: (value: Place) => void;
}) {
  return (
    <>
      <fieldset className="mb-3">
        <legend className="field-label">What they may do</legend>
        {ROLES.map((role) => (
          <label key={role} className="flex cursor-pointer gap-2 rounded-lg px-2 py-1.5 hover:bg-base-200">
            <input
              type="radio"
              className="radio radio-sm mt-0.5"
              name="role"
              checked={value.role === role}
              onChange={() => onChange({ ...value, role })}
            />
            <span>
              <span className="font-semibold">{ROLE_WORDS[role].name}</span>
              <span className="block text-note text-ink-2">{ROLE_WORDS[role].sentence}</span>
            </span>
          </label>
        ))}
      </fieldset>
      {value.role === 'desk' && (
        <Choice
          label="Whose leads"
          small
          value={value.whoseLeads}
          options={WHOSE_LEADS.map((one) => [one, WHOSE_LEADS_WORDS[one]] as const)}
          onChange={(whoseLeads) => onChange({ ...value, whoseLeads })}
          note={
            value.whoseLeads === 'all'
              ? undefined
              : 'Also leads they are to answer, or have a task about. All others they do not see.'
          }
        />
      )}
      {teams.length > 0 && (
        <fieldset className="mb-3">
          <legend className="field-label">Teams</legend>
          {teams.map((team) => (
            <Tick
              key={team.id}
              label={team.name}
              value={value.teams.includes(team.id)}
              onChange={(on) =>
                onChange({
                  ...value,
                  teams: on ? [...value.teams, team.id] : value.teams.filter((id) => id !== team.id),
                })
              }
            />
          ))}
        </fieldset>
      )}
    </>
  );
}
