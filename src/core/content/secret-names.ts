// What secrets are called, and what they look like.

const SECRET_WORDS = new Set(
  (
    'token tokens secret secrets password passwd passwort pwd passphrase passcode session sessionid sessid phpsessid ' +
    'jsessionid sid auth authorization jwt csrf xsrf apikey apitoken accesskey accesstoken authtoken credential credentials ' +
    'signature sig otp'
  ).split(' '),
);
/** Passwords in other languages, without marks on their letters and in one piece: "mot_de_passe", "contraseña". */
const FOREIGN = new Set(
  (
    'contrasena contrasenya contrasinal senha kennwort motdepasse wachtwoord haslo parola salasana losenord adgangskode lozinka ' +
    'heslo jelszo sifre пароль 密码 密碼 パスワード 비밀번호'
  ).split(' '),
);
/** What a name is of something about a secret, and not the secret: "token_type", "sessionStart", "password_hint". */
const ABOUT = new Set(
  (
    'type name time at start end count expires expiry expired in url uri endpoint method mode status state scope scopes enabled ' +
    'required length valid hint policy version age max min ttl error failed'
  ).split(' '),
);
/** Whose keys are secret; "sort-key" and "idempotency-key" are not. */
const KEY_OWNERS = new Set(
  'api access private secret encryption auth client subscription app signing license master'.split(' '),
);
/** Names that may stand for anything: secret only where the value looks like one. */
const PERHAPS = new Set(
  (
    'key code hash idtokenhint ticket state assertion samlresponse samlrequest samlart codeverifier verifier devicecode ' +
    'authenticitytoken clave'
  ).split(' '),
);
/** A header's name; elsewhere a member that is called so holds pairs, or says something of cookies. */
const COOKIE = /^(?:set[-_]?)?cookies?$/i;
/** A name in small letters and of one piece. */
const inOnePiece = (name: string): string => name.toLowerCase().replace(/[_-]/g, '');

/** The words of a name in small letters: "X-Api-Key", "accessToken" and "user[password]" all come apart. */
const wordsOf = (name: string): string[] =>
  name
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean);

function isForeign(name: string): boolean {
  const small = name.toLowerCase();
  if (/^[ -~]*$/.test(small)) return FOREIGN.has(small.replace(/[^a-z0-9]/g, ''));
  const plain = small.normalize('NFD').replace(/[^\p{L}\p{N}]/gu, '');
  return FOREIGN.has(plain.replace('ł', 'l').normalize('NFC'));
}

/** Whether what stands under a name is secret by that name alone. */
export function isSecretName(name: string): boolean {
  if (name.length > KEPT_CHARS) return judge(name);
  const known = judged.get(name);
  if (known !== undefined) return known;
  if (judged.size >= MOST_JUDGED) judged.clear();
  const isSecret = judge(name);
  judged.set(name, isSecret);
  return isSecret;
}

/** Texts have the same few names millions of times. */
const judged = new Map<string, boolean>();
const MOST_JUDGED = 10_000;
const KEPT_CHARS = 80;

function judge(name: string): boolean {
  const words = wordsOf(name);
  const last = words.at(-1) ?? '';
  if (words.length > 1 && ABOUT.has(last)) return false;
  if (words.some((word) => SECRET_WORDS.has(word)) || isForeign(name)) return true;
  return (last === 'key' || last === 'keys') && words.some((word) => KEY_OWNERS.has(word));
}

const LEAST_RANDOM = 16;
const LEAST_BITS = 3;

/** Whether a value looks as if a machine had made it up: long, of one piece, letters and digits well mixed. */
export function looksRandom(value: string): boolean {
  if (value.length < LEAST_RANDOM || !/^[A-Za-z0-9_+/=.~-]+$/.test(value)) return false;
  if (!/[0-9]/.test(value) || !/[A-Za-z]/.test(value)) return false;
  const counts = new Map<string, number>();
  for (const character of value) counts.set(character, (counts.get(character) ?? 0) + 1);
  let bits = 0;
  for (const count of counts.values()) bits -= (count / value.length) * Math.log2(count / value.length);
  return bits >= LEAST_BITS;
}

/** Whether what stands under a name is secret. Empty values, yes and no, and small numbers are not. */
export function isSecretValue(name: string, value: string): boolean {
  if (value === '' || /^(?:true|false|null|undefined|none|\d)$/i.test(value)) return false;
  if (isSecretName(name) || (COOKIE.test(name) && /^[^=;,\s]+=[^\s]/.test(value))) return true;
  return PERHAPS.has(inOnePiece(name)) && looksRandom(value);
}
