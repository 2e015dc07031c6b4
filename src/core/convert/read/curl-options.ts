// The options of curl's manual by their names: those that shape a request are read in curl.ts, of the others it is known
// whether a value follows, so that none is taken for an address.

/** Options that a value follows. */
const VALUED =
  'abstract-unix-socket alt-svc aws-sigv4 cacert capath cert cert-type ciphers config connect-timeout connect-to continue-at cookie cookie-jar create-file-mode crlfile curves data data-ascii data-binary data-raw data-urlencode delegation dns-interface dns-ipv4-addr dns-ipv6-addr dns-servers doh-url dump-header ech egd-file engine etag-compare etag-save expect100-timeout form form-string ftp-account ftp-alternative-to-user ftp-method ftp-port ftp-ssl-ccc-mode happy-eyeballs-timeout-ms haproxy-clientip header help hostpubmd5 hostpubsha256 hsts interface ip-tos ipfs-gateway json keepalive-cnt keepalive-time key key-type krb libcurl limit-rate local-port login-options mail-auth mail-from mail-rcpt max-filesize max-redirs max-time netrc-file noproxy oauth2-bearer output output-dir parallel-max pass pinnedpubkey preproxy proto proto-default proto-redir proxy proxy-cacert proxy-capath proxy-cert proxy-cert-type proxy-ciphers proxy-crlfile proxy-header proxy-key proxy-key-type proxy-pass proxy-pinnedpubkey proxy-service-name proxy-tls13-ciphers proxy-tlsauthtype proxy-tlspassword proxy-tlsuser proxy-user proxy1.0 pubkey quote random-file range rate referer request request-target resolve retry retry-delay retry-max-time sasl-authzid service-name socks4 socks4a socks5 socks5-gssapi-service socks5-hostname speed-limit speed-time stderr telnet-option tftp-blksize time-cond tls-max tls13-ciphers tlsauthtype tlspassword tlsuser trace trace-ascii trace-config unix-socket upload-file url url-query user user-agent variable vlan-priority write-out';
/** Options that stand by themselves. */
const BARE =
  'anyauth append basic ca-native cert-status compressed compressed-ssh create-dirs crlf digest disable disable-eprt disable-epsv disallow-username-in-url doh-cert-status doh-insecure fail fail-early fail-with-body false-start form-escape ftp-create-dirs ftp-pasv ftp-pret ftp-skip-pasv-ip ftp-ssl-ccc ftp-ssl-control get globoff haproxy-protocol head http0.9 http1.0 http1.1 http2 http2-prior-knowledge http3 http3-only ignore-content-length include insecure ipv4 ipv6 junk-session-cookies list-only location location-trusted mail-rcpt-allowfails manual metalink negotiate netrc netrc-optional next no-alpn no-buffer no-clobber no-keepalive no-npn no-progress-meter no-sessionid ntlm ntlm-wb parallel parallel-immediate path-as-is post301 post302 post303 progress-bar proxy-anyauth proxy-basic proxy-ca-native proxy-digest proxy-insecure proxy-negotiate proxy-ntlm proxy-ssl-allow-beast proxy-ssl-auto-client-cert proxy-tlsv1 proxytunnel raw remote-header-name remote-name remote-name-all remote-time remove-on-error retry-all-errors retry-connrefused sasl-ir show-error silent socks5-basic socks5-gssapi socks5-gssapi-nec ssl ssl-allow-beast ssl-auto-client-cert ssl-no-revoke ssl-reqd ssl-revoke-best-effort sslv2 sslv3 styled-output suppress-connect-headers tcp-fastopen tcp-nodelay tftp-no-options tlsv1 tlsv1.0 tlsv1.1 tlsv1.2 tlsv1.3 tr-encoding trace-ids trace-time use-ascii verbose version xattr';
const SHORT: Readonly<Record<string, string>> = {
  a: 'append',
  E: 'cert',
  K: 'config',
  C: 'continue-at',
  b: 'cookie',
  c: 'cookie-jar',
  d: 'data',
  q: 'disable',
  D: 'dump-header',
  f: 'fail',
  F: 'form',
  P: 'ftp-port',
  G: 'get',
  g: 'globoff',
  I: 'head',
  H: 'header',
  h: 'help',
  '0': 'http1.0',
  i: 'include',
  k: 'insecure',
  '4': 'ipv4',
  '6': 'ipv6',
  j: 'junk-session-cookies',
  l: 'list-only',
  L: 'location',
  M: 'manual',
  m: 'max-time',
  n: 'netrc',
  ':': 'next',
  N: 'no-buffer',
  o: 'output',
  Z: 'parallel',
  '#': 'progress-bar',
  x: 'proxy',
  U: 'proxy-user',
  p: 'proxytunnel',
  Q: 'quote',
  r: 'range',
  e: 'referer',
  J: 'remote-header-name',
  O: 'remote-name',
  R: 'remote-time',
  X: 'request',
  S: 'show-error',
  s: 'silent',
  Y: 'speed-limit',
  y: 'speed-time',
  '2': 'sslv2',
  '3': 'sslv3',
  t: 'telnet-option',
  z: 'time-cond',
  '1': 'tlsv1',
  T: 'upload-file',
  B: 'use-ascii',
  u: 'user',
  A: 'user-agent',
  v: 'verbose',
  V: 'version',
  w: 'write-out',
};

const valued = new Set(VALUED.split(' '));
const bare = new Set(BARE.split(' '));
const all = [...valued, ...bare];

/** An option as it was given: its long name and its value, if one belongs to it. */
export interface GivenOption {
  readonly name: string;
  readonly value: string | undefined;
  /** Given as --expand-NAME: the variables in its value are filled in. */
  readonly isExpanded: boolean;
}

/** Options and addresses in the order in which they stand; problems say what could not be read. */
export interface GivenArguments {
  readonly items: readonly (GivenOption | { readonly address: string })[];
  readonly problems: readonly string[];
}

/** Takes curl's arguments apart (curl manual, Options): runs of short ones, values joined or apart, names cut short. */
export function readArguments(args: readonly string[]): GivenArguments {
  const items: (GivenOption | { readonly address: string })[] = [];
  const problems: string[] = [];
  for (let at = 0; at < args.length; at++) {
    const arg = args[at] ?? '';
    if (arg === '-' || !arg.startsWith('-')) {
      items.push({ address: arg });
      continue;
    }
    if (arg.startsWith('--')) {
      const name = longName(arg.slice(2));
      const isExpanded = arg.startsWith('--expand-');
      if (name === undefined) problems.push(`curl knows no option ${arg}.`);
      else if (!valued.has(name)) items.push({ name, value: undefined, isExpanded: false });
      else if (at + 1 >= args.length) problems.push(`A value lacks behind ${arg}.`);
      else items.push({ name, value: args[++at], isExpanded });
      continue;
    }
    for (let place = 1; place < arg.length; place++) {
      const name = SHORT[arg[place] ?? ''];
      if (name === undefined) {
        problems.push(`curl knows no option -${arg[place]}.`);
        break;
      }
      if (!valued.has(name)) {
        items.push({ name, value: undefined, isExpanded: false });
        continue;
      }
      const joined = arg.slice(place + 1);
      if (joined === '' && at + 1 >= args.length) problems.push(`A value lacks behind -${arg[place]}.`);
      else items.push({ name, value: joined === '' ? args[++at] : joined, isExpanded: false });
      break;
    }
  }
  return { items, problems };
}

/** The full name of an option that may be cut short or turned round by "no-". */
function longName(given: string): string | undefined {
  const name = given.replace(/^expand-/, '');
  if (valued.has(name) || bare.has(name)) return name;
  // What is turned off is as if it had not been given, unless it is on by itself.
  if (name.startsWith('no-') && bare.has(name.slice(3))) return 'silent';
  const longer = all.filter((known) => known.startsWith(name));
  return longer.length === 1 ? longer[0] : undefined;
}
