#include "core/cost/walk.h"
#include "core/cost/statistics.h"
#include "core/finish/exposure.h"
#include "core/io/json_cursor.h"
#include <fmt/format.h>
#include <glm/gtc/constants.hpp>

namespace mirolux {

int WalkMeasurement::over(double budgetMs) const {
    return static_cast<int>(
        std::count_if(points.begin(), points.end(), [&](const WalkPoint& p) { return p.ms > budgetMs; }));
}

static Camera turned(Camera c, double heading) {
    const glm::vec3 d = c.aim - c.eye;
    const float co = static_cast<float>(std::cos(heading)), si = static_cast<float>(std::sin(heading));
    c.aim = c.eye + glm::vec3(co * d.x + si * d.z, d.y, -si * d.x + co * d.z);
    return c;
}

std::vector<WalkPoint> walk_points(const Walk& walk, double everyMetres, int headings) {
    std::vector<WalkPoint> out;
    if (walk.keys.empty()) return out;
    constexpr int steps = 200;
    const double first = walk.keys.front().seconds, span = walk.keys.back().seconds - first;
    const auto add = [&](double metres, double seconds) {
        for (int h = 0; h < std::max(1, headings); ++h) {
            WalkPoint p;
            p.metres = metres;
            p.seconds = seconds;
            p.heading = headings > 0 ? glm::two_pi<double>() * h / headings : 0.0;
            p.camera = turned(camera_on(walk, seconds), p.heading);
            out.push_back(p);
        }
    };
    add(0, first);
    double gone = 0, next = everyMetres;
    glm::dvec3 before(camera_on(walk, first).eye);
    for (int i = 1; i <= steps; ++i) {
        const double seconds = first + span * i / steps;
        const glm::dvec3 now(camera_on(walk, seconds).eye);
        const double step = glm::length(now - before);
        while (step > 0 && gone + step >= next) {
            const double share = (next - gone) / step;
            add(next, first + span * (i - 1 + share) / steps);
            next += everyMetres;
        }
        gone += step;
        before = now;
    }
    if (gone - out.back().metres > 0.25 * everyMetres) add(gone, first + span);
    return out;
}

/// Percentiles, length and worst place of the points.
static void summarise(WalkMeasurement& m) {
    std::vector<double> values;
    m.worstPoint = 0;
    m.metres = 0;
    for (std::size_t p = 0; p < m.points.size(); ++p) {
        values.push_back(m.points[p].ms);
        m.metres = std::max(m.metres, m.points[p].metres);
        if (m.points[p].ms > m.points[m.worstPoint].ms) m.worstPoint = p;
    }
    m.p50 = quantile(values, 0.5);
    m.p95 = quantile(values, 0.95);
    m.p99 = quantile(values, 0.99);
    m.worst = quantile(values, 1.0);
}

Result<std::vector<WalkMeasurement>> measure_walk(RenderSession& session, const Scene& scene,
                                                  const std::vector<Setup>& setups, const View& view, const Walk& walk,
                                                  const WalkOptions& options) {
    std::vector<WalkPoint> points = walk_points(walk, options.everyMetres, options.headings);
    if (points.empty()) return fail("the walk has no keys", walk.name, "Record a walk, or choose another.");
    const std::size_t places = points.size();
    std::vector<WalkMeasurement> out(setups.size());
    // ms[setup][point][pass] -> one sample a sweep
    std::vector<std::vector<std::vector<std::vector<double>>>> ms(
        setups.size(), std::vector<std::vector<std::vector<double>>>(places));
    std::vector<std::vector<std::vector<double>>> frames(setups.size(), std::vector<std::vector<double>>(places));
    std::vector<std::vector<std::optional<double>>> metered(setups.size(), std::vector<std::optional<double>>(places));
    const int all = static_cast<int>(places * setups.size()) * options.sweeps;
    int done = 0;
    bool stopped = false;
    const auto frame_at = [&](std::size_t s, std::size_t p) -> Result<FrameRecord> {
        RenderOptions o;
        o.picture = false;
        o.gpuClock = options.gpuClock;
        View v = view;
        v.camera = points[p].camera;
        v.seconds = points[p].seconds;
        return session.render(scene, setups[s], v, o);
    };
    for (std::size_t s = 0; s < setups.size(); ++s) // shaders are built before anything counts
        for (const std::size_t p : {std::size_t(0), places / 2})
            if (auto warm = frame_at(s, p); !warm) return tl::unexpected(warm.error());
    for (int sweep = 0; sweep < options.sweeps && !stopped; ++sweep) {
        std::vector<std::vector<std::pair<std::size_t, FrameRecord>>> taken(
            setups.size()); // kept only when the sweep ends
        for (std::size_t i = 0; i < places && !stopped; ++i) {
            const std::size_t p = sweep % 2 ? places - 1 - i : i; // to and fro
            for (std::size_t k = 0; k < setups.size(); ++k) {
                const std::size_t s = (sweep + static_cast<int>(i)) % 2 ? setups.size() - 1 - k : k;
                if (options.progress && !options.progress(done, all)) {
                    stopped = true;
                    break;
                }
                auto record = frame_at(s, p);
                if (!record) return tl::unexpected(record.error());
                taken[s].emplace_back(p, std::move(*record));
                ++done;
            }
        }
        if (stopped) break;
        for (std::size_t s = 0; s < setups.size(); ++s) {
            WalkMeasurement& m = out[s];
            m.sweeps = sweep + 1;
            for (const auto& [p, record] : taken[s]) {
                if (const auto it = record.told.find(told_metered); it != record.told.end())
                    metered[s][p] = it->second.front();
                m.clock = record.clock;
                double sum = 0;
                for (const PassRecord& pass : record.passes) {
                    const auto known = std::find_if(m.passes.begin(), m.passes.end(),
                                                    [&](const WalkPass& w) { return w.name == pass.name; });
                    const auto at = static_cast<std::size_t>(known - m.passes.begin());
                    if (known == m.passes.end()) m.passes.push_back({pass.name, pass.family});
                    if (ms[s][p].size() <= at) ms[s][p].resize(at + 1);
                    const double v = pass.ms.empty() ? 0.0 : pass.ms.front();
                    ms[s][p][at].push_back(v);
                    sum += v;
                }
                frames[s][p].push_back(sum);
            }
        }
    }
    for (std::size_t s = 0; s < setups.size(); ++s) {
        WalkMeasurement& m = out[s];
        if (m.sweeps == 0)
            return fail("the walk was stopped before its first sweep ended", walk.name,
                        "Nothing was kept; start it again.");
        m.walk = walk.name;
        m.stopped = stopped;
        m.points = points;
        for (std::size_t p = 0; p < places; ++p) {
            m.points[p].passMs.assign(m.passes.size(), 0.0);
            for (std::size_t k = 0; k < ms[s][p].size(); ++k)
                m.points[p].passMs[k] = median(ms[s][p][k]);
            m.points[p].ms = median(frames[s][p]);
            m.points[p].meteredEv100 = metered[s][p];
        }
        adapt_along(m.points, setups[s]);
        summarise(m);
    }
    return out;
}

void adapt_along(std::vector<WalkPoint>& points, const Setup& setup) {
    std::optional<double> ev;
    double seconds = 0;
    for (WalkPoint& p : points) {
        if (!p.meteredEv100) continue;
        if (!ev)
            ev = p.meteredEv100;
        else if (p.seconds > seconds)
            *ev = *p.meteredEv100 +
                  (*ev - *p.meteredEv100) * left_to_go(*ev, *p.meteredEv100, setup, p.seconds - seconds);
        seconds = p.seconds;
        p.ev100 = ev;
    }
}

WalkMeasurement worst_directions(const WalkMeasurement& measured) {
    WalkMeasurement out = measured;
    out.points.clear();
    for (const WalkPoint& p : measured.points) {
        if (out.points.empty() || out.points.back().metres != p.metres)
            out.points.push_back(p);
        else if (p.ms > out.points.back().ms)
            out.points.back() = p;
    }
    summarise(out);
    return out;
}

nlohmann::json walk_document(const WalkMeasurement& m, double budgetMs) {
    Json points = Json::array(), passes = Json::array();
    for (const WalkPass& p : m.passes)
        passes.push_back({{"name", p.name}, {"family", p.family}});
    for (const WalkPoint& p : m.points) {
        points.push_back({{"metres", p.metres},
                          {"seconds", p.seconds},
                          {"headingDegrees", glm::degrees(p.heading)},
                          {"eye", to_array(p.camera.eye)},
                          {"aim", to_array(p.camera.aim)},
                          {"frameMs", p.ms},
                          {"passMs", p.passMs}});
        if (p.ev100) points.back()["exposure"] = {{"ev100", *p.ev100}, {"metered", *p.meteredEv100}};
    }
    return {{"schema", "mirolux.walk"}, {"version", 1},
            {"walk", m.walk},           {"clock", m.clock},
            {"sweeps", m.sweeps},       {"stopped", m.stopped},
            {"metres", m.metres},       {"p50Ms", m.p50},
            {"p95Ms", m.p95},           {"p99Ms", m.p99},
            {"worstMs", m.worst},       {"worst", points.empty() ? Json() : points[m.worstPoint]},
            {"budgetMs", budgetMs},     {"over", budgetMs > 0 ? m.over(budgetMs) : 0},
            {"passes", passes},         {"points", points}};
}

std::string walk_csv(const WalkMeasurement& m) {
    std::string out = "metres,seconds,heading_degrees,eye_x,eye_y,eye_z,frame_ms";
    for (const WalkPass& p : m.passes)
        out += "," + p.name + "_ms";
    out += "\n";
    for (const WalkPoint& p : m.points) {
        out += fmt::format("{:.3f},{:.3f},{:.1f},{:.3f},{:.3f},{:.3f},{:.4f}", p.metres, p.seconds,
                           glm::degrees(p.heading), p.camera.eye.x, p.camera.eye.y, p.camera.eye.z, p.ms);
        for (const double v : p.passMs) {
            out += fmt::format(",{:.4f}", v);
        }
        out += "\n";
    }
    return out;
}

} // namespace mirolux
