import { getJson } from './api.js';
import { watchBeds, watchWeather } from './live.js';
import { openSession } from './session.js';
import { loadAround, showMap, showNotices, showWeather } from './views.js';

const slug = document.querySelector('main').dataset.hut;
showMap();
const weatherShown = showWeather(slug);
await openSession();
await Promise.all([weatherShown, getJson(`/huts/${slug}/availability?page=0`), showNotices(), loadAround()]);
const socket = watchBeds(slug);
const weather = watchWeather();
setTimeout(() => {
  socket.close(1000, 'seen enough');
  weather.close();
  document.body.dataset.done = 'yes';
}, 1300);
