import { getJson } from './api.js';
import { isoDays } from './dates.js';
export const countBeds = (slug) => Promise.all(isoDays(14).map((date) => getJson(`/huts/${slug}/beds/${date}`)));
