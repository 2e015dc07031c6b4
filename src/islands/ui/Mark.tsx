/** The mark: a stepped line whose first leg is the route's. */
export function Mark() {
  return (
    <svg width="46" height="26" viewBox="0 0 46 26" aria-hidden="true" className="fill-none stroke-[3.5]">
      <path d="M2 22h11v-8" className="stroke-route" />
      <path d="M11.5 14h9.5v8h9v-18h14" className="stroke-ink" />
    </svg>
  );
}
