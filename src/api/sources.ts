import { addQuestion, NewQuestion } from '../app/sources/add-question.ts';
import {
  arrivalsByDay,
  fetchSample,
  getArrival,
  getAttachment,
  HandleAgain,
  handleAgain,
  learntFields,
  listArrivals,
} from '../app/sources/arrivals.ts';
import { ChangeSource, changeSource, renewAddress } from '../app/sources/change-source.ts';
import {
  correctImportHeader,
  getImport,
  importRows,
  refusedRows,
  StartImport,
  startImport,
  stopImport,
  uploadImport,
} from '../app/sources/imports.ts';
import {
  AddSource,
  addSource,
  getSource,
  listChoices,
  listSources,
  saveCard,
  showSourceSecret,
  suggestCard,
} from '../app/sources/sources.ts';
import { undoImport } from '../app/sources/undo-import.ts';
import { correctHowRead, HowRead, listFiles, listTabs, uploadFile } from '../app/sources/workbook-files.ts';
import { removeSource } from '../app/workflows/removal.ts';
import { LeadCard } from '../core/source/lead-card.ts';
import { MOST_FILE_BYTES } from '../tables/table.ts';
import { asCsv } from '../tables/write.ts';
import { download } from './download.ts';
import { doors } from './route.ts';

const { does, reads, takes, takesFile, writes, writesAlone } = doors('see-setup', 'build');

export const sourcesRoutes = [
  writes('POST', '/sources/:source/questions', NewQuestion, (tx, input, { source }) => addQuestion(tx, source, input)),
  does('POST', '/sources/:source/address', (use, { source }) => renewAddress(use, source)),
  takes('POST', '/sources/:source/again', HandleAgain, (use, input, { source }) => handleAgain(use, source, input)),
  /** Always as a download: what a stranger has sent is never shown as a page of ours. */
  reads('/sources/:source/arrivals/:arrival/attachment', async (use, { source, arrival }, query) => {
    const n = Number(query.get('n') ?? 0);
    const file = await getAttachment(use, source, arrival, Number.isInteger(n) ? n : 0);
    return download(file.name, 'application/octet-stream', file.bytes as unknown as BodyInit);
  }),
  reads('/sources/:source/arrivals/:arrival', (use, { source, arrival }) => getArrival(use, source, arrival)),
  reads('/sources/:source/arrivals', async (use, { source }, query) => {
    const found = await listArrivals(use, source, { state: query.get('state'), before: query.get('before') });
    return found.map((sampleView) => ({ ...sampleView, guess: suggestCard(use, sampleView.fields) }));
  }),
  writes('PUT', '/sources/:source/card', LeadCard, (tx, input, { source }) => saveCard(tx, source, input)),
  reads('/sources/:source/learnt', async (use, { source }) => ({
    fields: await learntFields(use, source),
    days: await arrivalsByDay(use, source),
  })),
  reads('/sources/:source/choices', async (use, { source }, query) =>
    listChoices(use, (await getSource(use, source)).kind, query),
  ),
  reads('/sources/:source/files', (use, { source }) => listFiles(use, source)),
  takesFile('/sources/:source/files', MOST_FILE_BYTES, (use, file, { source }) =>
    uploadFile(use, source, file.name, file.bytes),
  ),
  takes('POST', '/sources/:source/header', HowRead, (use, input, { source }) => correctHowRead(use, source, input)),
  takesFile('/sources/:source/import/file', MOST_FILE_BYTES, (use, file, { source }) =>
    use.write((tx) => uploadImport(tx, source, file.name, file.bytes)),
  ),
  /** The refused rows. */
  reads(
    '/sources/:source/import/file',
    async (use, { source }) =>
      download('refused-rows.csv', 'text/csv; charset=utf-8', asCsv(await use.write((tx) => refusedRows(tx, source)))),
    'build',
  ),
  writes('POST', '/sources/:source/import/header', HowRead, (tx, input, { source }) =>
    correctImportHeader(tx, source, input),
  ),
  reads('/sources/:source/import', (use, { source }) => getImport(use, source)),
  writes('POST', '/sources/:source/import', StartImport, (tx, input, { source }) => startImport(tx, source, input)),
  reads('/sources/:source/import/rows', (use, { source }, query) =>
    importRows(use, source, query.get('verdict'), Number(query.get('after') ?? 0) || 0),
  ),
  writesAlone('POST', '/sources/:source/import/stop', (tx, { source }) => stopImport(tx, source)),
  writesAlone('POST', '/sources/:source/import/undo', (tx, { source }) => undoImport(tx, source)),
  reads('/sources/:source', (use, { source }) => getSource(use, source)),
  writes('PUT', '/sources/:source', ChangeSource, (tx, input, { source }) => changeSource(tx, source, input)),
  writesAlone('DELETE', '/sources/:source', (tx, { source }) => removeSource(tx, source)),
  does('POST', '/sources/:source/sample', (use, { source }) => fetchSample(use, source)),
  writesAlone('POST', '/sources/:source/secret', async (tx, { source }) => ({
    secret: await showSourceSecret(tx, source),
  })),
  reads('/sources/:source/tabs', (use, { source }) => listTabs(use, source)),
  reads('/sources/choices/:kind', (use, { kind }, query) => listChoices(use, kind, query)),
  reads('/sources', (use) => listSources(use)),
  takes('POST', '/sources', AddSource, (use, input) => addSource(use, input)),
] as const;
