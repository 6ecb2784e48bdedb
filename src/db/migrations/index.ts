import { Migration20261125004431_initial } from './Migration20261125004431_initial.ts';

/** Every migration, oldest first. A list, not a folder scan: it also holds in the built application. */
export const migrationsList = [{ name: 'Migration20261125004431_initial', class: Migration20261125004431_initial }];
