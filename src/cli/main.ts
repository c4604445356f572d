/** The `wispen` command. Exit 0: good; 1: findings or bad input, one sentence on stderr; 2: wrong usage. */
import { parseArgs } from 'node:util';
import { backUpTo, putBack } from './backup.js';
import { bake } from './bake.js';
import { check } from './check.js';
import { compile } from './compile.js';
import { evalPoints } from './evalPoints.js';
import { listOperators, printSchema } from './describe.js';
import { BadInput, WrongUsage } from './input.js';

const USAGE = `usage: wispen check FILE… [--json]
       wispen compile FILE --target glsl|wgsl|wasm|listing --out DIR [--freeze] [--variant V]
       wispen eval FILE --points POINTS.json [--strand ID…] [--variant V]
       wispen bake FILE --output NAME --size PIXELS --frames FIRST-LAST --format png|exr --out DIR [--threads N] [--variant V]
       wispen operators [--json]
       wispen schema
       wispen backup [--data FOLDER] [--out FOLDER]
       wispen restore BACKUP [--data FOLDER]`;

function main(argv: string[]): number | Promise<number> {
  const [command, ...rest] = argv;
  const parse = <T extends Record<string, { type: 'string' | 'boolean'; multiple?: boolean }>>(options: T) => {
    try {
      return parseArgs({ args: rest, options, allowPositionals: true, strict: true });
    } catch (error) {
      throw new WrongUsage((error as Error).message.split('. ')[0]!);
    }
  };
  switch (command) {
    case 'check': {
      const { values, positionals } = parse({ json: { type: 'boolean' } });
      if (positionals.length === 0) throw new WrongUsage('check needs a file');
      return check(positionals, values.json === true);
    }
    case 'compile': {
      const { values, positionals } = parse({
        ...{ target: { type: 'string' }, out: { type: 'string' }, variant: { type: 'string' } },
        freeze: { type: 'boolean' },
      });
      if (positionals.length !== 1 || !values.target || !values.out)
        throw new WrongUsage('compile needs one file, --target and --out');
      return compile(positionals[0]!, {
        ...{ target: String(values.target), out: String(values.out), freeze: values.freeze === true },
        variant: values.variant === undefined ? null : String(values.variant),
      });
    }
    case 'eval': {
      const { values, positionals } = parse({
        points: { type: 'string' },
        strand: { type: 'string', multiple: true },
        variant: { type: 'string' },
      });
      if (!values.points || positionals.length === 0) throw new WrongUsage('eval needs one file and --points');
      // `--strand a b c`: further names after the first arrive as positionals.
      const [file, ...more] = positionals;
      const strands = [...((values.strand as string[] | undefined) ?? []), ...more];
      if (more.length > 0 && !values.strand) throw new WrongUsage('eval takes one file');
      return evalPoints(file!, String(values.points), strands, values.variant === undefined ? null : String(values.variant));
    }
    case 'bake': {
      const names = ['output', 'size', 'frames', 'format', 'out', 'threads', 'variant'] as const;
      const { values, positionals } = parse(Object.fromEntries(names.map((n) => [n, { type: 'string' as const }])));
      const text = (name: (typeof names)[number]) => (values[name] === undefined ? null : String(values[name]));
      const out = text('out');
      if (positionals.length !== 1 || out === null) throw new WrongUsage('bake needs one file and --out');
      return bake(positionals[0]!, {
        output: text('output') ?? 'emission',
        size: text('size') ?? '512',
        frames: text('frames') ?? '0',
        format: text('format') ?? 'png',
        out,
        threads: text('threads'),
        variant: text('variant'),
      });
    }
    case 'operators':
      return listOperators(parse({ json: { type: 'boolean' } }).values.json === true);
    case 'schema':
      parse({});
      return printSchema();
    case 'backup': {
      const { values, positionals } = parse({ data: { type: 'string' }, out: { type: 'string' } });
      if (positionals.length > 0) throw new WrongUsage('backup takes no file; --out says where to');
      return backUpTo(values.data as string | undefined, values.out as string | undefined);
    }
    case 'restore': {
      const { values, positionals } = parse({ data: { type: 'string' } });
      if (positionals.length !== 1) throw new WrongUsage('restore needs the folder of one backup');
      return putBack(positionals[0]!, values.data as string | undefined);
    }
    case undefined:
    case '--help':
    case 'help':
      console.log(USAGE);
      return command === undefined ? 2 : 0;
    default:
      throw new WrongUsage(`there is no command ${command}`);
  }
}

// Whoever read what is printed has read enough.
for (const stream of [process.stdout, process.stderr])
  stream.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code === 'EPIPE') process.exit(0);
    throw error;
  });

try {
  process.exitCode = await main(process.argv.slice(2));
} catch (error) {
  if (error instanceof WrongUsage) {
    console.error(`wispen: ${error.message}\n${USAGE}`);
    process.exitCode = 2;
  } else if (error instanceof BadInput) {
    console.error(`wispen: ${error.message}`);
    process.exitCode = 1;
  } else throw error;
}
