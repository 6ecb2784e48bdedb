import type { Catalogue } from '../core/workflow/step-kind.ts';
import { Choice } from './fields.tsx';

/** Chooses a colleague, or the lead's owner. */
export function ColleagueChoice({
  label,
  value,
  catalogue,
  onChange,
  nobody,
  rota = false,
}: {
  label: string;
  value: string;
  catalogue: Catalogue;
  onChange: (colleague: string) => void;
  /** What an empty choice means. */
  nobody: string;
  /** Whether several can take turns. */
  rota?: boolean;
}) {
  return (
    <Choice
      label={label}
      field="colleague"
      value={value}
      onChange={onChange}
      options={[
        ['', nobody],
        ['owner', 'The lead’s owner'],
        ...(rota ? ([['rota', 'Several, in turn']] as const) : []),
        ...catalogue.colleagues.map((colleague) => [colleague.id, colleague.name] as const),
      ]}
    />
  );
}
