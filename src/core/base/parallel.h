#pragma once
#include <oneapi/tbb/parallel_for.h>
#include <thread>

namespace mirolux {

/// body(i) for each i of [first, last), on all cores; returns when all are done. The body must be safe to run at once
/// for different i.
template <class Body>
void parallel_for(int first, int last, const Body& body) {
#ifdef __SANITIZE_THREAD__
    // TBB as Debian builds it hides from the sanitizer how it orders its tasks; two plain threads do not.
    std::thread other([&] {
        for (int i = first + 1; i < last; i += 2)
            body(i);
    });
    for (int i = first; i < last; i += 2)
        body(i);
    other.join();
#else
    tbb::parallel_for(first, last, body);
#endif
}

} // namespace mirolux
