// Builds the app first where its sources have changed since: what is tested is what is there.
import { ensureBuilt } from './ready.mjs';

ensureBuilt();
