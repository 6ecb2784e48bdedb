/**
 * Planner settings of the hot functions. Their plans are kept per connection and may be made while the tables are still
 * empty, when reading a whole table looks cheapest; that plan would then cost more with every lead stored. Every look-up
 * in them is meant to go by an index, so the other ways are ruled out, and none is planned anew for what is asked with.
 */
export const BY_INDEX =
  'set enable_seqscan = off set enable_hashjoin = off set enable_mergejoin = off set enable_material = off set plan_cache_mode = force_generic_plan';
