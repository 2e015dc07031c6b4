import { createHash, X509Certificate } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { generate } from 'selfsigned';

export const HOSTS = [
  'cumbrera.example',
  'www.cumbrera.example',
  'api.cumbrera.example',
  'img.cumbrera.example',
  'live.cumbrera.example',
  'type.letterpile.example',
  'stats.tallyfox.example',
  'sky.topolines.example',
] as const;

export interface Certificate {
  readonly key: string;
  readonly cert: string;
  readonly certPath: string;
  /** SHA-256 of its public key, by which a browser can be told to trust it. */
  readonly publicKeyHash: string;
}

/** A certificate of the stand-in site's own for all its hosts, made at the first start and kept in the folder. */
export async function getCertificate(folder: string): Promise<Certificate> {
  mkdirSync(folder, { recursive: true });
  const keyPath = join(folder, 'site.key');
  const certPath = join(folder, 'site.crt');
  if (!existsSync(keyPath) || !existsSync(certPath)) {
    const made = await generate([{ name: 'commonName', value: 'cumbrera.example' }], {
      algorithm: 'sha256',
      notAfterDate: new Date(Date.now() + 365 * 86_400_000),
      extensions: [
        { name: 'basicConstraints', cA: true },
        { name: 'subjectAltName', altNames: HOSTS.map((value) => ({ type: 2, value })) },
      ],
    });
    writeFileSync(keyPath, made.private, { mode: 0o600 });
    writeFileSync(certPath, made.cert);
  }
  const cert = readFileSync(certPath, 'utf8');
  const publicKey = new X509Certificate(cert).publicKey.export({ type: 'spki', format: 'der' });
  const publicKeyHash = createHash('sha256').update(publicKey).digest('base64');
  return { key: readFileSync(keyPath, 'utf8'), cert, certPath, publicKeyHash };
}
