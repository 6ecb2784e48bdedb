/** Columns of the owner's table of bookings, with what stands in each: the touch before booking says which ad brought them. */
export const BOOKED_COLUMNS = {
  Name: '{{ lead.full_name }}',
  'Date and hour':
    '{{ answers["appointment.start"] | date: "short" }} {{ answers["appointment.start"] | date: "time" }}',
  Calendar: '{{ answers["appointment.calendar"] }}',
  Source: '{{ booking_touch.utm_source }}',
  Campaign: '{{ booking_touch.campaign }}',
  'Ad set': '{{ booking_touch.ad_set }}',
  Ad: '{{ booking_touch.ad }}',
};
