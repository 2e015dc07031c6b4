export const readable = (date) => new Intl.DateTimeFormat('en', { dateStyle: 'medium' }).format(new Date(date));
export const isoDays = (count) =>
  Array.from({ length: count }, (_, at) => new Date(Date.UTC(2026, 9, 3 + at)).toISOString().slice(0, 10));
