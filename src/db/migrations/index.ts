import { Migration20261125020844_initial } from './Migration20261125020844_initial.ts';

/** Every migration, oldest first. A list, not a folder scan: it also holds in the built application. */
export const migrationsList = [{ name: 'Migration20261125020844_initial', class: Migration20261125020844_initial }];
