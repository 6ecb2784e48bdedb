import { useEffect, useState } from 'react';
import { Line } from '../../components/fields.tsx';
import { ConnectionChoice, EveryChoice, firstOf, OneOf, SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

export default function WorkbookForm({ connections, choices, create }: SourceFormProps) {
  const [name, setName] = useState('');
  const [lies, setLies] = useState<'here' | 'elsewhere'>('here');
  const [connection, setConnection] = useState(firstOf(connections, 'file_place'));
  const [path, setPath] = useState('');
  const [paths, setPaths] = useState<string[]>([]);
  const [problem, setProblem] = useState('');
  const [everyMinutes, setEvery] = useState(5);
  const folder = path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '';
  const elsewhere = lies === 'elsewhere';
  useEffect(() => {
    if (!elsewhere || connection === '') return;
    let asked = true;
    choices({ connection, of: 'files', q: folder }).then(
      (page) => {
        if (!asked) return;
        setPaths(page.choices.filter(({ live }) => live !== false).map(({ id }) => id));
        setProblem('');
      },
      (error: Error) => {
        if (!asked) return;
        setPaths([]);
        setProblem(error.message);
      },
    );
    return () => {
      asked = false;
    };
  }, [choices, connection, elsewhere, folder]);
  return (
    <SetupForm
      button={elsewhere ? 'Listen to this file' : 'Make a place for the file'}
      ready={name.trim() !== '' && (!elsewhere || (connection !== '' && path.trim() !== ''))}
      create={create}
      input={() => ({ kind: 'workbook', name, ...(elsewhere ? { connectionId: connection, path, everyMinutes } : {}) })}
    >
      <Line label="Name of the source" value={name} maxLength={100} placeholder="Fair contacts" onChange={setName} />
      <OneOf
        label="The file"
        value={lies}
        options={[
          ['here', 'Is uploaded, or dropped off by a script'],
          ['elsewhere', 'Lies on a server, and is fetched when it has changed'],
        ]}
        onChange={setLies}
      />
      {elsewhere && (
        <ConnectionChoice
          connections={connections}
          kind="file_place"
          label="Files elsewhere"
          value={connection}
          onChange={setConnection}
        />
      )}
      {elsewhere && connection !== '' && (
        <>
          <Line
            label="Which file, with the folders it is in"
            value={path}
            maxLength={1000}
            placeholder="camp/entries.csv"
            list="files-there"
            note={problem || undefined}
            onChange={setPath}
          />
          <datalist id="files-there">
            {paths.map((one) => (
              <option key={one} value={one} />
            ))}
          </datalist>
          <EveryChoice value={everyMinutes} onChange={setEvery} />
        </>
      )}
    </SetupForm>
  );
}
