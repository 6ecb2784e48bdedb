import { Choose } from './DaysChoice.tsx';

/** Whose way is shown: everybody's, or that of one campaign or workflow. */
export function GroupChoice({
  only,
  groups,
  change,
}: {
  only: string;
  groups: { only: string; name: string }[];
  change: (changes: Record<string, string>) => void;
}) {
  const options = Object.fromEntries(groups.map((group) => [group.only, groupName(group)]));
  return (
    <Choose
      label="Whose"
      value={only}
      options={{
        '': 'Everybody who came in',
        ...(only === '' || only in options ? {} : { [only]: only.replace(/^\w+:/, '') }),
        ...options,
      }}
      choose={(chosen) => change({ only: chosen })}
    />
  );
}

const groupName = ({ only, name }: { only: string; name: string }): string =>
  only.startsWith('workflow:') ? `Workflow: ${name}` : `Campaign: ${name || 'none marked'}`;
