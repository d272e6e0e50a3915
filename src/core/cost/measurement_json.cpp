#include "core/cost/measurement_json.h"
#include "core/io/wire.h"

namespace mirolux {

Json to_json(const Measurement& m) {
    Json passes = Json::array();
    for (std::size_t i = 0; i < m.passes.size(); ++i) {
        const PassFigure& p = m.passes[i];
        passes.push_back({{"name", p.name},
                          {"family", p.family},
                          {"medianMs", p.ms.median},
                          {"lowMs", p.ms.low},
                          {"highMs", p.ms.high},
                          {"work", to_json(p.work)},
                          {"samplesMs", m.passMs[i]}});
    }
    return {{"passes", passes},
            {"frame",
             {{"medianMs", m.frame.median},
              {"lowMs", m.frame.low},
              {"highMs", m.frame.high},
              {"unfencedMs", m.whole.median},
              {"unfencedLowMs", m.whole.low},
              {"unfencedHighMs", m.whole.high},
              {"p95Ms", m.p95},
              {"p99Ms", m.p99},
              {"worstMs", m.worst},
              {"samplesMs", m.frameMs}}},
            {"rounds", m.rounds},
            {"clock", m.clock},
            {"exposure", {{"ev100", m.ev100}}},
            {"size", {m.width, m.height}},
            {"stopped", m.stopped},
            {"droppedLights", m.droppedLights},
            {"droppedObjects", m.droppedObjects},
            {"lightsInView", m.lightsInView},
            {"lightsInScene", m.lightsInScene}};
}

Json to_json(const Comparison& c) {
    return {{"ratio", c.ratio},
            {"low", c.low},
            {"high", c.high},
            {"verdict", word(c.verdict)},
            {"smallestShown", c.smallestShown},
            {"rounds", c.rounds}};
}

} // namespace mirolux
