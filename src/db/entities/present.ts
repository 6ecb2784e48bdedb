/** What has been removed is not found any more, unless somebody asks for it by turning this off: its history still names it. */
export const PRESENT = { name: 'present', cond: { removedAt: null }, default: true };
