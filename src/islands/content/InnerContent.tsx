import { type ComponentType, createContext, useContext } from 'react';
import type { Content } from './content';

interface InnerContentProps {
  readonly content: Content;
  readonly hit: undefined;
}

/** What shows content that stands in other content: given by whoever shows the outer one, which holds bodies that hold bodies. */
export const ShowsContent = createContext<ComponentType<InnerContentProps> | undefined>(undefined);

/** A content inside another. */
export function InnerContent({ content }: { readonly content: Content }) {
  const Shown = useContext(ShowsContent);
  if (Shown === undefined) throw new Error('content inside content is not shown here');
  return <Shown content={content} hit={undefined} />;
}
