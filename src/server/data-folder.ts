import { join } from 'node:path';
import envPaths from 'env-paths';

/** The data folder: TRAZADO_DATA, else the platform's folder for a program's data. */
export const findDataFolder = (): string => process.env['TRAZADO_DATA'] ?? envPaths('trazado', { suffix: '' }).data;

/** The demo's own folder in it. */
export const demoFolder = (folder: string): string => join(folder, 'demo');
