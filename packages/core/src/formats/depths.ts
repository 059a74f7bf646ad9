/** How a sample may be ordered: bits of an integer, or the EXR types. */
export const sampleDepths = ['8', '10', '12', '16', 'half', 'float', 'uint'] as const;
export type SampleDepth = (typeof sampleDepths)[number];

/** How a sample may be stored in a file; some depths turn up that nobody orders. */
export const storedDepths = [...sampleDepths, '1', '2', '4', 'double'] as const;
export type StoredDepth = (typeof storedDepths)[number];
