/** Whether Accept-Encoding takes one of these codings (RFC 9110 12.5.3): it names it, or anything, with a weight above 0. */
export const acceptsCoding = (accepted: string, codings: readonly string[]): boolean => {
  const weights = new Map<string, boolean>();
  for (const one of accepted.toLowerCase().split(',')) {
    const [name = '', ...parameters] = one.split(';').map((part) => part.trim());
    const isRefused = parameters.some((parameter) => /^q\s*=\s*0(?:\.0*)?$/.test(parameter));
    weights.set(name.replace(/^x-/, ''), !isRefused);
  }
  return codings.some((coding) => weights.get(coding.replace(/^x-/, '')) ?? weights.get('*') ?? false);
};
