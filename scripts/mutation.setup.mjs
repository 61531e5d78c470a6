import fc from 'fast-check';

// A mutant is found out by the first case that fails; what the smallest one is, nobody asks.
fc.configureGlobal({ endOnFailure: true });
