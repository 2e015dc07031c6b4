export { loadAround } from './around.js';
export { countBeds } from './beds.js';
export { showHero } from './hero.js';
export { showMap } from './map.js';
export { showNights } from './nights.js';
export { showNotices } from './notices.js';
export { loadPrices } from './prices.js';
export { showWeather } from './weather.js';
