import de from './words-de.js';
import en from './words-en.js';
import es from './words-es.js';

const all = { en, es, de };
export const word = (key, language = document.documentElement.lang) => all[language]?.[key] ?? key;
