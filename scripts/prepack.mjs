// npm pack: the package holds the built app, so it is built first.
import { ensureBuilt, ensurePackages } from './ready.mjs';

ensurePackages();
ensureBuilt();
