/* The compiled reference of the soak's kernels: reads, compares and writes every word of a region. */
#include <stddef.h>
#include <stdint.h>

uint64_t read_compare_write(uint64_t *words, size_t count, uint64_t expected, uint64_t next) {
    uint64_t wrong = 0;
    for (size_t at = 0; at < count; at++) {
        wrong += words[at] != expected;
        words[at] = next;
    }
    return wrong;
}

uint64_t read_compare(const uint64_t *words, size_t count, uint64_t expected) {
    uint64_t wrong = 0;
    for (size_t at = 0; at < count; at++)
        wrong += words[at] != expected;
    return wrong;
}
