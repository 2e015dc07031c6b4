import fc from 'fast-check';

// Properties are tried on the same values each time, so that what fails here fails elsewhere; another seed tries others.
// A failure prints the seed, the path to it and the value: it is kept as an example beside its property.
// One whose test has ended, as it took too long, ends some time, too: what it asks may be gone, so that it would go on for good.
const seed = Number(process.env['TRAZADO_SEED'] ?? 20261127);
fc.configureGlobal({ seed, interruptAfterTimeLimit: 600_000, markInterruptAsFailure: true });
