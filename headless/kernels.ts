import { kernelBytes } from '../src/core/kernels/build/kernelBytes';
import { provideKernels } from '../src/core/kernels/loader';

// the command line, the benchmarks and the unit tests compute in their own thread
provideKernels(kernelBytes);
