import { watchAWhile } from './live.js';
import { openSession } from './session.js';
import { countBeds, loadAround, loadPrices, showHero, showMap, showNights, showNotices, showWeather } from './views.js';
import { word } from './words.js';

const slug = document.querySelector('main').dataset.hut;
await openSession();
showMap();
const hero = showHero(slug);
await Promise.all([hero, showNights(slug), countBeds(slug), loadPrices(), loadPrices(), showNotices(), loadAround()]);
await showWeather(slug);
document.documentElement.dataset.words = word('beds-0');
watchAWhile(slug);
