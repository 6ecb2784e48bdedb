import { Migration20261125020844_initial } from './Migration20261125020844_initial.ts';
import { Migration20261125042153_sources } from './Migration20261125042153_sources.ts';
import { Migration20261125043528_imports } from './Migration20261125043528_imports.ts';
import { Migration20261125185437_run_sheet } from './Migration20261125185437_run_sheet.ts';
import { Migration20261125201205_deals } from './Migration20261125201205_deals.ts';
import { Migration20261125203038_company_directory } from './Migration20261125203038_company_directory.ts';
import { Migration20261125214420_conversing } from './Migration20261125214420_conversing.ts';
import { Migration20261125230753_nurture } from './Migration20261125230753_nurture.ts';
import { Migration20261126010000_choosing } from './Migration20261126010000_choosing.ts';
import { Migration20261126020000_histories } from './Migration20261126020000_histories.ts';
import { Migration20261126030000_conversations } from './Migration20261126030000_conversations.ts';
import { Migration20261126040000_chat_templates } from './Migration20261126040000_chat_templates.ts';
import { Migration20261126050000_ends_tags } from './Migration20261126050000_ends_tags.ts';
import { Migration20261126060000_chat_forms } from './Migration20261126060000_chat_forms.ts';
import { Migration20261127010000_wishes } from './Migration20261127010000_wishes.ts';
import { Migration20261127020000_finding } from './Migration20261127020000_finding.ts';
import { Migration20261127030000_removal } from './Migration20261127030000_removal.ts';
import { Migration20261127040000_wall } from './Migration20261127040000_wall.ts';
import { Migration20261127050000_guesses } from './Migration20261127050000_guesses.ts';
import { Migration20261127060000_text_limits } from './Migration20261127060000_text_limits.ts';
import { Migration20261127070000_leases } from './Migration20261127070000_leases.ts';
import { Migration20261127080000_row_keys } from './Migration20261127080000_row_keys.ts';

/** Every migration, oldest first. A list, not a folder scan: it also holds in the built application. */
export const migrationsList = [
  { name: 'Migration20261125020844_initial', class: Migration20261125020844_initial },
  { name: 'Migration20261125042153_sources', class: Migration20261125042153_sources },
  { name: 'Migration20261125043528_imports', class: Migration20261125043528_imports },
  { name: 'Migration20261125185437_run_sheet', class: Migration20261125185437_run_sheet },
  { name: 'Migration20261125201205_deals', class: Migration20261125201205_deals },
  { name: 'Migration20261125203038_company_directory', class: Migration20261125203038_company_directory },
  { name: 'Migration20261125214420_conversing', class: Migration20261125214420_conversing },
  { name: 'Migration20261125230753_nurture', class: Migration20261125230753_nurture },
  { name: 'Migration20261126010000_choosing', class: Migration20261126010000_choosing },
  { name: 'Migration20261126020000_histories', class: Migration20261126020000_histories },
  { name: 'Migration20261126030000_conversations', class: Migration20261126030000_conversations },
  { name: 'Migration20261126040000_chat_templates', class: Migration20261126040000_chat_templates },
  { name: 'Migration20261126050000_ends_tags', class: Migration20261126050000_ends_tags },
  { name: 'Migration20261126060000_chat_forms', class: Migration20261126060000_chat_forms },
  { name: 'Migration20261127010000_wishes', class: Migration20261127010000_wishes },
  { name: 'Migration20261127020000_finding', class: Migration20261127020000_finding },
  { name: 'Migration20261127030000_removal', class: Migration20261127030000_removal },
  { name: 'Migration20261127040000_wall', class: Migration20261127040000_wall },
  { name: 'Migration20261127050000_guesses', class: Migration20261127050000_guesses },
  { name: 'Migration20261127060000_text_limits', class: Migration20261127060000_text_limits },
  { name: 'Migration20261127070000_leases', class: Migration20261127070000_leases },
  { name: 'Migration20261127080000_row_keys', class: Migration20261127080000_row_keys },
];
