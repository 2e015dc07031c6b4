import { between, pick } from './random';

// The made-up world of Cumbrera: huts, beds, ridges, notices, weather.

export interface Hut {
  readonly slug: string;
  readonly name: string;
  readonly ridge: string;
  readonly altitudeM: number;
  readonly beds: number;
  readonly pricePerNight: number;
  readonly warden: string;
  readonly photos: readonly string[];
  readonly facilities: readonly string[];
  readonly story: string;
}

const FIRST = ['Alba', 'Brisa', 'Cantil', 'Duna', 'Espiga', 'Faro', 'Garza', 'Hoya', 'Islote', 'Jara'] as const;
const SECOND = ['Norte', 'Alta', 'Vieja', 'Serena'] as const;
const RIDGES = ['Cresta Larga', 'Loma Gris', 'Peña Honda', 'Sierra Callada', 'Cordal del Viento'] as const;
const WARDENS = ['Ilse Marrow', 'Tomo Quill', 'Beatris Fenn', 'Oram Lask', 'Nadia Thorne', 'Piet Hollow'] as const;
const FACILITIES = ['stove', 'spring water', 'drying room', 'library', 'sauna', 'terrace', 'winter room'] as const;
const SENTENCES = [
  'The path climbs through larches to a saddle from which the whole valley shows.',
  'In autumn the fog stays below the terrace and the ridges stand out like islands.',
  'The last spring is an hour before the hut, so fill your bottles there.',
  'Walkers share long tables, and the kitchen closes when the lamps are lit.',
  'From here the northern traverse takes six hours in good weather.',
] as const;

const slugOf = (name: string): string => name.toLowerCase().replaceAll(' ', '-');

function makeHut(name: string): Hut {
  const slug = slugOf(name);
  return {
    slug,
    name,
    ridge: pick(`${slug} ridge`, RIDGES),
    altitudeM: between(`${slug} altitude`, 1400, 2900),
    beds: between(`${slug} beds`, 12, 64),
    pricePerNight: between(`${slug} price`, 18, 46),
    warden: pick(`${slug} warden`, WARDENS),
    photos: ['ridge', 'stove', 'bunks', 'terrace'].map((view) => `${slug}-${view}`),
    facilities: FACILITIES.filter((facility) => between(`${slug} ${facility}`, 0, 2) > 0),
    story: SENTENCES.map((_, at) => pick(`${slug} story ${at}`, SENTENCES)).join(' '),
  };
}

export const HUTS: readonly Hut[] = FIRST.flatMap((first) => SECOND.map((second) => makeHut(`${first} ${second}`)));

export const findHut = (slug: string): Hut | undefined => HUTS.find((hut) => hut.slug === slug);

export interface Night {
  readonly date: string;
  readonly free: number;
  readonly price: number;
}

const FIRST_NIGHT = Date.UTC(2026, 9, 3);
const DAY_MS = 86_400_000;

export function nightsOf(hut: Hut, from: number, count: number): Night[] {
  return Array.from({ length: count }, (_, at) => {
    const date = new Date(FIRST_NIGHT + (from + at) * DAY_MS).toISOString().slice(0, 10);
    return { date, free: between(`${hut.slug} ${date}`, 0, hut.beds), price: hut.pricePerNight };
  });
}

export interface Notice {
  readonly id: number;
  readonly hut: string;
  readonly title: string;
  readonly text: string;
  readonly writtenAt: string;
}

const TITLES = [
  'Spring is frozen',
  'New mattresses',
  'Bridge repaired',
  'Path diverted',
  'Bread on Saturdays',
] as const;

export const NOTICES: readonly Notice[] = Array.from({ length: 120 }, (_, at) => ({
  id: 1000 + at,
  hut: HUTS[at % HUTS.length]?.slug ?? '',
  title: pick(`notice ${at} title`, TITLES),
  text: [0, 1, 2].map((part) => pick(`notice ${at} ${part}`, SENTENCES)).join(' '),
  writtenAt: new Date(FIRST_NIGHT - at * DAY_MS).toISOString(),
}));

/** Hourly weather of a place: degrees, wind, snow. */
export const weatherOf = (
  place: string,
): readonly { hour: number; degrees: number; windKmh: number; snowCm: number }[] =>
  Array.from({ length: 72 }, (_, hour) => ({
    hour,
    degrees: between(`${place} degrees ${hour}`, -8, 14),
    windKmh: between(`${place} wind ${hour}`, 0, 90),
    snowCm: between(`${place} snow ${hour >> 3}`, 0, 12),
  }));

/** Trail names with way points: the dictionary that the first release ships as one script. */
export function makeAtlas(trails: number): { name: string; ridge: string; points: number[][] }[] {
  return Array.from({ length: trails }, (_, at) => ({
    name: `${pick(`trail ${at} a`, FIRST)} ${pick(`trail ${at} b`, RIDGES)} ${at}`,
    ridge: pick(`trail ${at} r`, RIDGES),
    points: Array.from({ length: 14 }, (_point, point) => [
      between(`trail ${at} x ${point}`, 0, 9999) / 100,
      between(`trail ${at} y ${point}`, 0, 9999) / 100,
    ]),
  }));
}
