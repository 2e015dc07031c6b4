import type { Draft } from '../draft';
import type { RenderOptions } from '../options';

/** A request that is hard to write down, sent to an origin. */
export interface Case {
  readonly name: string;
  readonly draft: (origin: string) => Draft;
  readonly options: RenderOptions;
  /** What the draft comes to on the wire, where that is not what it says. */
  readonly arrives?: (draft: Draft) => Draft;
}

/** The file that appears where anything but the request was run. */
export const CANARY = 'canary';
export const TOUCH = `touch ${CANARY}`;

export const own = (name: string, value: string): Draft['headers'][number] => ({
  name,
  value,
  role: 'own',
  kept: true,
  reason: '',
});

export const text = (one: string): Draft['payload'] => ({ type: 'text', text: one });

export const ATTACKS = [
  `$(${TOUCH})`,
  `\`${TOUCH}\``,
  `'; ${TOUCH}; '`,
  `"; ${TOUCH}; "`,
  `\\'; ${TOUCH}; \\'`,
  `'"; ${TOUCH} #`,
  `| ${TOUCH}`,
  `& ${TOUCH} &`,
  `%PATH% %${TOUCH}% !PATH!`,
  `\${IFS}\${HOME}`,
  `#{\`${TOUCH}\`}`,
  `#$0 #@x`,
  `@{[\`${TOUCH}\`]}`,
  `$HOME $0 $@ $_`,
  `\\$(${TOUCH})`,
  `{{name}} {{secret}}`,
  `</script><script>`,
  `<?php ?> %>`,
  `'+process.exit(9)+'`,
  `"+process.exit(9)+"`,
  `'.exit(9).'`,
  `\\u0022\\x22\\n\\`,
  `\\(1) \\{1}`,
  `%s %d %% %n`,
  `'''"""`,
  `a\\`,
  `\\\\`,
  `"`,
  `'`,
  '`',
  `a"b'c`,
  `^ ^^ ^"`,
  `!!`,
  `~ * ? [a-c] {1,2}`,
  `=eq`,
  `@/etc/passwd`,
  `<in >out`,
  `-X DELETE`,
  `--data x`,
  `a:b=c;d@e`,
  `; semi ;colon`,
  `a  b`,
];
export const UNICODE = ['ü€😀', 'ñandú ‘q’ “q”', '日本語', '\u2028\u2029\u00a0\u200b\u202e'];
