/** What an order of the shop goes through. */
export const ORDER_STATES = ['placed', 'paid', 'packed', 'sent', 'returned'] as const;
