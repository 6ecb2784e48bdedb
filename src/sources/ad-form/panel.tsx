import { ByHand } from '../../components/ByHand.tsx';
import { FirstOne } from '../../components/FirstOne.tsx';
import type { SourcePanelProps } from '../source-form.ts';

export default function AdFormPanel({ source, practiceUrl, ask }: SourcePanelProps) {
  const { formName, pageName, scope, how } = source.settings as Record<string, string>;
  return (
    <>
      <ByHand source={source} ask={ask} />
      {source.arrivals === 0 && (
        <FirstOne practiceUrl={practiceUrl}>
          Fill in {scope === 'page' ? `any form of ${pageName}` : `the ${formName} form`} once, as a customer would
          {how === 'pull' ? ', or fetch the newest entry there is' : '; the entry appears here by itself'}.
        </FirstOne>
      )}
    </>
  );
}
