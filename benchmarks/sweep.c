/* The compiled reference of the soak's kernels: what a C programmer would write for the same elements.
   Words are counted from the beginning of the buffer, so that a background is the same wherever a thread begins. */
#include <immintrin.h>
#include <stddef.h>
#include <stdint.h>

#define BLOCK 64 /* words that are read, and then written */
#define GROUP (8 * BLOCK) /* words that leave the caches together, after every operation */

static inline uint64_t constant(uint64_t one, uint64_t two, uint64_t at) { return one ^ (two & (0 - (at & 1))); }
static inline uint64_t walking(uint64_t one, uint64_t two, uint64_t at) { (void)two; return 1ull << ((at + one) & 63); }
static inline uint64_t address(uint64_t one, uint64_t two, uint64_t at) { (void)two; return one + 8 * at; }
static inline uint64_t mixed(uint64_t x) {
    x = (x ^ (x >> 30)) * 0xBF58476D1CE4E5B9ull;
    x = (x ^ (x >> 27)) * 0x94D049BB133111EBull;
    return x ^ (x >> 31);
}

/* Reads, compares and writes the inverse, block by block, upwards or downwards. */
#define READ_COMPARE_WRITE(name, word)                                                                                     \
    uint64_t name(uint64_t *words, size_t first, size_t last, int down, uint64_t one, uint64_t two, uint64_t flip) {       \
        uint64_t wrong = 0;                                                                                                \
        size_t blocks = (last - first) / BLOCK;                                                                            \
        for (size_t step = 0; step < blocks; step++) {                                                                     \
            size_t at = first + (down ? blocks - 1 - step : step) * BLOCK;                                                 \
            for (size_t i = at; i < at + BLOCK; i++) wrong |= words[i] ^ flip ^ word(one, two, i);                         \
            for (size_t i = at; i < at + BLOCK; i++) words[i] = ~flip ^ word(one, two, i);                                 \
        }                                                                                                                  \
        return wrong;                                                                                                      \
    }
READ_COMPARE_WRITE(sweep_constant, constant)
READ_COMPARE_WRITE(sweep_walking, walking)
READ_COMPARE_WRITE(sweep_address, address)

/* Random data: a number of the block and one of the place in it. */
uint64_t sweep_random(uint64_t *words, size_t first, size_t last, int down, uint64_t one, uint64_t two, uint64_t flip) {
    const uint64_t step = 0x9E3779B97F4A7C15ull;
    uint64_t wrong = 0, places[BLOCK];
    size_t blocks = (last - first) / BLOCK;
    (void)two;
    for (size_t place = 0; place < BLOCK; place++) places[place] = mixed(one - (place + 1) * step);
    for (size_t number = 0; number < blocks; number++) {
        size_t at = first + (down ? blocks - 1 - number : number) * BLOCK;
        uint64_t head = mixed(one + (at / BLOCK + 1) * step);
        for (size_t i = 0; i < BLOCK; i++) {
            uint64_t both = head + places[i];
            wrong |= words[at + i] ^ flip ^ both ^ (both >> 29);
        }
        for (size_t i = 0; i < BLOCK; i++) words[at + i] = ~words[at + i];
    }
    return wrong;
}

/* The least that any such element needs: a memory's own rate. */
uint64_t sweep_plain(uint64_t *words, size_t first, size_t last, uint64_t expected, uint64_t next) {
    uint64_t wrong = 0;
    for (size_t at = first; at < last; at++) {
        wrong |= words[at] ^ expected;
        words[at] = next;
    }
    return wrong;
}

/* The least that an element needs that only reads. */
uint64_t read_plain(const uint64_t *words, size_t first, size_t last, uint64_t expected) {
    uint64_t wrong = 0;
    for (size_t at = first; at < last; at++) wrong |= words[at] ^ expected;
    return wrong;
}

/* r0, w1, r1, w0 of a constant: every operation over a group whose words then leave the caches; writes go past them. */
uint64_t sweep_flushed(uint64_t *words, size_t first, size_t last) {
    uint64_t wrong = 0;
    for (size_t group = first; group + GROUP <= last; group += GROUP) {
        for (int half = 0; half < 2; half++) {
            uint64_t found = 0 - (uint64_t)half, next = ~found;
            for (size_t i = group; i < group + GROUP; i++) wrong |= words[i] ^ found;
            for (size_t i = group; i < group + GROUP; i += 8) _mm_clflushopt(&words[i]);
            _mm_mfence();
            __m256i value = _mm256_set1_epi64x((long long)next);
            for (size_t i = group; i < group + GROUP; i += 4) _mm256_stream_si256((__m256i *)&words[i], value);
            _mm_sfence();
        }
    }
    return wrong;
}
