import { useEffect, useState } from 'react';
import type { SheetPane } from './SheetPanes.tsx';

/** Which pane is in sight where there is room for one: the sheet, until something on it is chosen. `times` counts how often that was. */
export function usePane(times: number, chosenAtFirst: boolean): [SheetPane, (pane: SheetPane) => void] {
  const [pane, setPane] = useState<SheetPane>(chosenAtFirst ? 'step' : 'sheet');
  useEffect(() => {
    if (times > 0) setPane('step');
  }, [times]);
  return [pane, setPane];
}
