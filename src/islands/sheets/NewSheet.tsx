import { useState } from 'react';
import type { SheetView } from '../../app/sheets.ts';
import { call, messageOf } from '../call.ts';

/** Makes a sheet and opens it. */
export default function NewSheet() {
  const [name, setName] = useState('');
  const [problem, setProblem] = useState('');
  return (
    <form
      className="flex items-start gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        call<SheetView>('POST', '/api/sheets', { name }).then(
          (sheet) => location.assign(`/sheets/${sheet.id}`),
          (error: unknown) => setProblem(messageOf(error)),
        );
      }}
    >
      <div>
        <input
          className="input input-sm"
          style={{ width: 220 }}
          aria-label="Name of the new sheet"
          placeholder="Open day sign-in"
          value={name}
          maxLength={100}
          onChange={(event) => setName(event.target.value)}
        />
        {problem && <p className="text-[13px] text-error">{problem}</p>}
      </div>
      <button className="btn btn-primary btn-sm" type="submit" disabled={name.trim() === ''}>
        Make a new sheet
      </button>
    </form>
  );
}
