#pragma once
#include "core/cost/frame_record.h"
#include "gpu/gl/program.h"

namespace mirolux::gpu {

double now_ms();

/// Holds the GPU clock (GL_TIME_ELAPSED) against the fenced one on known work of two sizes, three times each. Accepted
/// only if its readings grow with the work and both agree within `tolerance`. The first query is thrown away: drivers
/// answer nonsense for it.
ClockReport test_clock(ProgramCache& programs, double tolerance = 0.25);

/// Finish, start, run, finish, stop: milliseconds, with no overlap of any other work.
template <class Run>
double fenced_ms(Run&& run) {
    glFinish();
    const double start = now_ms();
    run();
    glFinish();
    return now_ms() - start;
}

} // namespace mirolux::gpu
