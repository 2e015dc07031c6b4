import { getJson } from './api.js';
export async function loadAround() {
  const { items } = await getJson('/huts?page=0');
  return items.length;
}
