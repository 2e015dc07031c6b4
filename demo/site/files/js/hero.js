import { ask } from './api.js';
import { $, make } from './dom.js';

const QUERY = `query HutCard($slug: String!) {
  hut(slug: $slug) { ...Card }
}
fragment Card on Hut { name ridge beds warden story hero photos facilities }`;
export async function showHero(slug) {
  const { data } = await ask('HutCard', QUERY, { slug });
  $('#hero').append(make('img', { src: data.hut.hero, alt: data.hut.name, width: 960, height: 540 }));
  return data.hut;
}
