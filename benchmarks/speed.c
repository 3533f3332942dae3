/* Compiled references of the benchmark's loops, for the same buffers. */
#include <stddef.h>
#include <stdint.h>
#if defined(__x86_64__)
#include <immintrin.h>
#endif

uint64_t read_words(const uint64_t *source, size_t count) {
    uint64_t total = 0;
    for (size_t at = 0; at < count; at++)
        total += source[at];
    return total;
}

void write_words(uint64_t *target, size_t count, uint64_t value) {
    for (size_t at = 0; at < count; at++)
        target[at] = value ^ at;
}

void write_past_cache(uint64_t *target, size_t count, uint64_t value) {
#if defined(__x86_64__)
    for (size_t at = 0; at < count; at++)
        _mm_stream_si64((long long *)(target + at), (long long)(value ^ at));
    _mm_mfence();
#else
    write_words(target, count, value);
#endif
}

void copy_words(uint64_t *restrict target, const uint64_t *restrict source, size_t count, uint64_t flip) {
    for (size_t at = 0; at < count; at++)
        target[at] = source[at] ^ flip;
}

void scaled_sum(double *restrict target, const double *restrict one, const double *restrict other, size_t count, double scale) {
    for (size_t at = 0; at < count; at++)
        target[at] = one[at] + scale * other[at];
}

uint64_t chase(const uint64_t *following, uint64_t start, size_t steps) {
    uint64_t at = start;
    for (size_t step = 0; step < steps; step++)
        at = following[at];
    return at;
}
