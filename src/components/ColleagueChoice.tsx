import type { Catalogue } from '../core/workflow/step-kind.ts';
import { ThingChoice } from './ThingChoice.tsx';

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
    <ThingChoice
      label={label}
      what="colleague"
      field="colleague"
      value={value}
      things={catalogue.colleagues}
      others={[['', nobody], ['owner', 'The lead’s owner'], ...(rota ? ([['rota', 'Several, in turn']] as const) : [])]}
      onChange={onChange}
    />
  );
}
