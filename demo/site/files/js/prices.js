import { getJson } from './api.js';
export const loadPrices = () => getJson('/prices');
