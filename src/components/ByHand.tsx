import type { SourcePanelProps } from '../sources/source-form.ts';
import { AddressPanel } from './AddressPanel.tsx';

/** Where a service tells a source, when its description has no call to arrange it: somebody enters it there. Nothing otherwise. */
export function ByHand({ source, ask }: Pick<SourcePanelProps, 'source' | 'ask'>) {
  if (source.settings.byHand !== true) return null;
  return (
    <AddressPanel
      source={source}
      ask={ask}
      about="The description of this service has no call that arranges it: enter this address there, as the one that is told of what happens."
    />
  );
}
