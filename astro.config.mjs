import node from '@astrojs/node';
import react from '@astrojs/react';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'astro/config';
import manifest from './package.json' with { type: 'json' };

/** What the package depends on is installed beside it; everything else goes into the built server. */
const bundled = { name: 'bundled', apply: 'build', config: () => ({ ssr: { noExternal: true } }) };

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'standalone' }),
  integrations: [react()],
  devToolbar: { enabled: false },
  // src/server/guard.ts checks Host and Origin of every request, whatever its method and type.
  security: { checkOrigin: false },
  experimental: {
    csp: {
      directives: [
        "default-src 'self'",
        "img-src 'self' data: blob:",
        "font-src 'self'",
        "connect-src 'self'",
        "frame-src 'self'",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
      ],
    },
  },
  vite: {
    plugins: [tailwindcss(), bundled],
    build: {
      assetsInlineLimit: 0,
      // Browsers of the last two years: older syntax only makes every script larger.
      target: 'es2023',
      // From this machine what a script imports is there at once: lists of it in every script would only be read.
      modulePreload: { resolveDependencies: () => [] },
    },
    worker: { format: 'es' },
    ssr: { external: Object.keys(manifest.dependencies) },
  },
});
