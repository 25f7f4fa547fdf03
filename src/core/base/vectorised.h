// Marks a function that the compiler makes twice, for plain machines and for those with AVX2, chosen at run
// time.

#pragma once

// Which of the two is decided before ThreadSanitizer is ready for it: under it there is one.
#if defined(__SANITIZE_THREAD__)
#define PRISTINE_VECTORISED
#else
#define PRISTINE_VECTORISED __attribute__((target_clones("avx2", "default")))
#endif
