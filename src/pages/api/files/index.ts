import { keepFile, MOST_FILE } from '../../../app/files.ts';
import { takesFile } from '../../../web/endpoint.ts';

export const POST = takesFile(MOST_FILE, (use, file) => use.write((tx) => keepFile(tx, file)));
