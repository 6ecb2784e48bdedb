import { useMemo } from 'react';
import type { SheetSource } from '../../app/workflows/run-sheet.ts';
import { call } from '../../client/call.ts';
import type { FieldPicker } from '../../components/field-picker.ts';

/** The form page of our own a sheet listens to, to be asked for one more answer; null where there is none, or which of several is not clear. */
export function useOwnForm(
  sources: readonly SheetSource[],
  chosen: readonly string[],
  refresh: () => Promise<void>,
): FieldPicker['ask'] | null {
  const own = sources.filter(({ id, ownForm }) => ownForm && chosen.includes(id));
  const [only] = own.length === 1 ? own : [];
  const { id, name } = only ?? {};
  return useMemo(
    () =>
      id === undefined || name === undefined
        ? null
        : {
            form: name,
            make: async (label) => {
              const { key } = await call('POST', `/api/sources/${id}/questions`, { label });
              await refresh();
              return { group: 'answers', key };
            },
          },
    [id, name, refresh],
  );
}
