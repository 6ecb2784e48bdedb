import { listFiles, uploadFile } from '../../../../app/workbook-files.ts';
import { MOST_FILE_BYTES } from '../../../../tables/table.ts';
import { gives, takesFile } from '../../../../web/endpoint.ts';

export const GET = gives((use, { id }) => listFiles(use, id!));
export const POST = takesFile(MOST_FILE_BYTES, (use, file, { id }) => uploadFile(use, id!, file.name, file.bytes));
