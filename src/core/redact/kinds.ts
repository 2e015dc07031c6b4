/** Kinds of what is taken out, in display order. */
export const SECRET_KINDS = [
  'token',
  'password',
  'cookie',
  'key',
  'card',
  'iban',
  'national-id',
  'person',
  'email',
  'phone',
  'address',
  'coordinates',
  'random',
  'own',
] as const;
export type SecretKind = (typeof SECRET_KINDS)[number];

export const KIND_WORDS: Record<SecretKind, string> = {
  token: 'tokens',
  password: 'passwords',
  cookie: 'cookies',
  key: 'keys',
  card: 'card numbers',
  iban: 'bank accounts (IBAN)',
  'national-id': 'national ids',
  person: 'names and addresses of people',
  email: 'e-mail addresses',
  phone: 'phone numbers',
  address: 'network addresses',
  coordinates: 'coordinates',
  random: 'long random values',
  own: 'your own words',
};

/** Who a capture is for: what is taken out of it follows. */
export const PRESETS = ['colleague', 'supplier', 'public'] as const;
export type RedactPreset = (typeof PRESETS)[number];

const CREDENTIALS: readonly SecretKind[] = ['token', 'password', 'cookie', 'key', 'card', 'iban', 'national-id', 'own'];
const PEOPLE: readonly SecretKind[] = ['person', 'email', 'phone', 'address'];

/** The kinds that are taken out by themselves; the others are named, to be decided on. */
export const KINDS_OF_PRESET: Record<RedactPreset, ReadonlySet<SecretKind>> = {
  colleague: new Set(CREDENTIALS),
  supplier: new Set([...CREDENTIALS, ...PEOPLE]),
  public: new Set([...CREDENTIALS, ...PEOPLE, 'coordinates', 'random']),
};
