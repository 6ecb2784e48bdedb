import Plus from 'lucide-react/icons/plus';
import Trash2 from 'lucide-react/icons/trash-2';
import type { TabView } from '../../app/sheets/sheets.ts';
import { Tool } from '../../components/Tool.tsx';
import { NameField } from './NameField.tsx';

/** The tabs of a sheet; the one in sight can be renamed where it stands. */
export function SheetTabs({
  tabs,
  chosen,
  mayChange,
  busy,
  onOpen,
  onName,
  onRemove,
  onAdd,
}: {
  tabs: readonly TabView[];
  chosen: string;
  mayChange: boolean;
  busy: boolean;
  onOpen(id: string): void;
  onName(id: string, name: string): Promise<boolean>;
  onRemove(tab: TabView): void;
  onAdd(): void;
}) {
  return (
    <nav
      className="flex items-center gap-4 overflow-x-auto border-b border-base-300 bg-base-100 px-4"
      aria-label="Tabs"
    >
      {tabs.map((tab) =>
        tab.id === chosen ? (
          <span
            key={tab.id}
            aria-current="true"
            className="flex items-center border-b-2 border-brass-line py-1 font-medium text-primary"
          >
            <NameField
              fixed={!mayChange}
              label="Name of the tab"
              value={tab.name}
              onChange={(name) => onName(tab.id, name)}
            />
            {mayChange && tabs.length > 1 && (
              <Tool label={`Delete the tab ${tab.name}`} onClick={() => onRemove(tab)}>
                <Trash2 className="size-3.5" />
              </Tool>
            )}
          </span>
        ) : (
          <button
            key={tab.id}
            type="button"
            className="border-b-2 border-transparent py-2 font-medium text-ink-2 hover:text-base-content"
            onClick={() => onOpen(tab.id)}
          >
            {tab.name}
          </button>
        ),
      )}
      {mayChange && (
        <Tool label="Add a tab" disabled={busy} onClick={onAdd}>
          <Plus className="size-4" />
        </Tool>
      )}
    </nav>
  );
}
