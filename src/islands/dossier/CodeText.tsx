interface CodeTextProps {
  readonly text: string;
  readonly isJson: boolean;
}

/** Text as it is; JSON laid out where it is whole. */
export function CodeText({ text, isJson }: CodeTextProps) {
  return (
    <pre className="overflow-x-auto whitespace-pre-wrap break-words border border-line bg-paper p-2 font-mono text-[12px]">
      {isJson ? layOut(text) : text}
    </pre>
  );
}

function layOut(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    // Cut or broken JSON is still worth reading as it stands.
    return text;
  }
}
