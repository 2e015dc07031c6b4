import { getJson } from './api.js';
import { watchAWhile } from './live.js';
import { openSession } from './session.js';
import { loadAround, showMap, showNotices, showWeather } from './views.js';

const slug = document.querySelector('main').dataset.hut;
showMap();
const weatherShown = showWeather(slug);
await openSession();
await Promise.all([weatherShown, getJson(`/huts/${slug}/availability?page=0`), showNotices(), loadAround()]);
watchAWhile(slug);
