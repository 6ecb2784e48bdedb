import { Tab, TabList, TabPanel, TabProvider } from '@ariakit/react';
import type { ReactNode } from 'react';

interface Props<T extends string> {
  /** What they are the parts of. */
  label: string;
  tabs: readonly (readonly [id: T, words: string])[];
  chosen: T;
  onChoose(id: T): void;
  className?: string;
  tabClass(chosen: boolean): string;
  /** Of the chosen one. */
  children: ReactNode;
  panelClass?: string;
}

/** Parts of a page of which one is seen: chosen by mouse, or with the arrow keys. */
export function Tabs<T extends string>({
  label,
  tabs,
  chosen,
  onChoose,
  className = '',
  tabClass,
  children,
  panelClass,
}: Props<T>) {
  return (
    <TabProvider selectedId={chosen} setSelectedId={(id) => id && onChoose(id as T)}>
      <TabList aria-label={label} className={className}>
        {tabs.map(([id, words]) => (
          <Tab key={id} id={id} className={tabClass(id === chosen)}>
            {words}
          </Tab>
        ))}
      </TabList>
      <TabPanel tabId={chosen} focusable={false} {...(panelClass ? { className: panelClass } : {})}>
        {children}
      </TabPanel>
    </TabProvider>
  );
}
