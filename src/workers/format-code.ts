import type { Plugin } from 'prettier';
import type { Language } from '#core/content';

/** The parser that lays a language out, with what it needs; loaded when it is first asked for. */
const LAYOUTS: Record<Language, () => Promise<{ readonly parser: string; readonly plugins: Plugin[] }>> = {
  javascript: async () => ({ parser: 'babel', plugins: await scriptPlugins() }),
  json: async () => ({ parser: 'json', plugins: await scriptPlugins() }),
  css: async () => ({ parser: 'css', plugins: [await import('prettier/plugins/postcss')] }),
  html: async () => ({
    parser: 'html',
    plugins: [
      await import('prettier/plugins/html'),
      await import('prettier/plugins/postcss'),
      ...(await scriptPlugins()),
    ],
  }),
  xml: async () => ({ parser: 'html', plugins: [await import('prettier/plugins/html')] }),
  graphql: async () => ({ parser: 'graphql', plugins: [await import('prettier/plugins/graphql')] }),
  markdown: async () => ({ parser: 'markdown', plugins: [await import('prettier/plugins/markdown')] }),
  yaml: async () => ({ parser: 'yaml', plugins: [await import('prettier/plugins/yaml')] }),
};

const scriptPlugins = async (): Promise<Plugin[]> => [
  await import('prettier/plugins/babel'),
  (await import('prettier/plugins/estree')) as Plugin,
];

/** Code laid out for reading. Throws where it cannot be parsed. */
export async function formatCode(text: string, language: Language): Promise<string> {
  const { format } = await import('prettier/standalone');
  return format(text, { ...(await LAYOUTS[language]()), printWidth: 100, singleQuote: false });
}
