import { useMemo } from 'react';
import { readQuery } from '#core/http';
import { FieldList } from '../../dossier/FieldList';
import { Unfolding } from '../../dossier/Unfolding';
import type { Content } from '../content';

/** The fields of a form, decoded. */
export function FormReading({ content }: { readonly content: Content }) {
  const fields = useMemo(() => readQuery((content.text ?? '').trim()), [content.text]);
  return (
    <FieldList fields={fields} none="The form has no field." noteFor={({ value }) => <Unfolding value={value} />} />
  );
}
