/** How a sample is written: bits of an integer, or the types of EXR. */
export type SampleType = '8' | '10' | '16' | 'half' | 'float' | 'uint';
