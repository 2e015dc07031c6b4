import type { RefObject } from 'react';
import { takeIn } from './DropLayer';

/** The browser's own dialog for files, opened by a click on the element that the ref goes to. */
export function FilePicker({ picker }: { readonly picker: RefObject<HTMLInputElement | null> }) {
  return (
    <input
      ref={picker}
      type="file"
      multiple
      accept=".har,.json,.zip,.gz,application/json"
      aria-label="HAR files"
      className="hidden"
      onChange={(event) => {
        takeIn([...(event.target.files ?? [])]);
        event.target.value = '';
      }}
    />
  );
}
