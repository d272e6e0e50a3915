#include "core/finish/edge_quality.h"
#include "core/finish/edges.h"
#include "core/finish/render_scale.h"
#include "core/light/luminance.h"
#include "core/plan/frame_plan.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace mirolux {

namespace {

constexpr double edge_contrast = 24; // codes

/// Luma of the codes, row by row.
std::vector<double> lumas_of(const ByteImage& picture) {
    std::vector<double> out;
    out.reserve(picture.rgba.size() / 4);
    for (std::size_t i = 0; i + 3 < picture.rgba.size(); i += 4)
        out.push_back(luminance({picture.rgba[i], picture.rgba[i + 1], picture.rgba[i + 2]}));
    return out;
}

std::vector<bool> edges_in(const ByteImage& truth) {
    const std::vector<double> luma = lumas_of(truth);
    std::vector<bool> out(luma.size());
    for (int y = 0; y < truth.height; ++y)
        for (int x = 0; x < truth.width; ++x) {
            double low = 1e9, high = 0;
            for (int v = std::max(0, y - 1); v <= std::min(truth.height - 1, y + 1); ++v)
                for (int u = std::max(0, x - 1); u <= std::min(truth.width - 1, x + 1); ++u) {
                    const double l = luma[std::size_t(v) * std::size_t(truth.width) + std::size_t(u)];
                    low = std::min(low, l);
                    high = std::max(high, l);
                }
            out[std::size_t(y) * std::size_t(truth.width) + std::size_t(x)] = high - low > edge_contrast;
        }
    return out;
}

Result<ByteImage> picture_of(RenderSession& session, const EdgeQuestion& q, const Setup& setup, const View& view,
                             int frames) {
    RenderOptions o;
    o.fencedSamples = 0;
    o.frames = frames;
    auto record = session.render(q.scene, setup, view, o);
    if (!record) return tl::unexpected(record.error());
    return std::move(record->picture);
}

/// The mean of the light that a picture's codes stand for, over squares of pixels.
ByteImage averaged(const ByteImage& many, int side) {
    ByteImage out{many.width / side, many.height / side, {}};
    std::array<double, 256> light{};
    for (std::size_t i = 0; i < light.size(); ++i)
        light[i] = srgb_decode(double(i) / 255);
    for (int y = 0; y < out.height; ++y)
        for (int x = 0; x < out.width; ++x) {
            glm::dvec3 sum(0.0);
            for (int v = 0; v < side; ++v) {
                const std::uint8_t* row =
                    &many.rgba[std::size_t(4) *
                               (std::size_t(y * side + v) * std::size_t(many.width) + std::size_t(x * side))];
                for (int u = 0; u < side; ++u, row += 4)
                    sum += glm::dvec3(light[row[0]], light[row[1]], light[row[2]]);
            }
            for (int c = 0; c < 3; ++c)
                out.rgba.push_back(static_cast<std::uint8_t>(std::lround(255 * srgb_encode(sum[c] / (side * side)))));
            out.rgba.push_back(255);
        }
    return out;
}

/// The pictures of a way from rest and over the pan; side: of the square of pixels that each is the mean of.
Result<std::vector<ByteImage>> pictures_of(RenderSession& session, const EdgeQuestion& q, const Setup& setup, int side,
                                           const std::function<bool(double)>& go_on) {
    std::vector<ByteImage> out;
    const FramePlan plan = plan_frame(q.scene, setup, q.view);
    for (int i = 0; i <= q.frames; ++i) {
        View view = q.view;
        view.camera = panned(q.view.camera, q.view, i * q.pan);
        view.width *= side;
        view.height *= side;
        // At rest the history settles; each frame of the pan goes on from the one before.
        auto picture = picture_of(session, q, setup, view, i == 0 && plan.has_history() ? plan.settleFrames : 0);
        if (!picture) return tl::unexpected(picture.error());
        out.push_back(side > 1 ? averaged(*picture, side) : std::move(*picture));
        if (!go_on(double(i + 1) / (q.frames + 1))) break;
    }
    return out;
}

} // namespace

EdgeErrors edge_errors(const ByteImage& picture, const ByteImage& truth) {
    const std::vector<double> a = lumas_of(picture), b = lumas_of(truth);
    const std::vector<bool> edges = edges_in(truth);
    std::vector<double> off;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i)
        if (edges[i]) off.push_back(std::abs(a[i] - b[i]));
    EdgeErrors out;
    out.pixels = static_cast<int>(off.size());
    if (off.empty()) return out;
    for (const double e : off)
        out.mean += e / double(off.size());
    std::sort(off.begin(), off.end());
    out.p95 = off[std::min(off.size() - 1, off.size() * 95 / 100)];
    return out;
}

/// Mean of what `of` says of each pixel on an edge of either truth.
template <class Of>
static double mean_on_edges(const ByteImage& truthBefore, const ByteImage& truthNow, Of of) {
    const std::vector<bool> e = edges_in(truthBefore), f = edges_in(truthNow);
    double sum = 0;
    int count = 0;
    for (std::size_t i = 0; i < e.size(); ++i)
        if (e[i] || f[i]) {
            sum += of(i);
            ++count;
        }
    return count > 0 ? sum / count : 0;
}

double edge_change(const ByteImage& before, const ByteImage& now, const ByteImage& truthBefore,
                   const ByteImage& truthNow) {
    const std::vector<double> a = lumas_of(before), b = lumas_of(now);
    return mean_on_edges(truthBefore, truthNow, [&](std::size_t i) { return std::abs(b[i] - a[i]); });
}

double edge_crawl(const ByteImage& before, const ByteImage& now, const ByteImage& truthBefore,
                  const ByteImage& truthNow) {
    const std::vector<double> a = lumas_of(before), b = lumas_of(now), c = lumas_of(truthBefore),
                              d = lumas_of(truthNow);
    return mean_on_edges(truthBefore, truthNow, [&](std::size_t i) { return std::abs((b[i] - a[i]) - (d[i] - c[i])); });
}

Camera panned(const Camera& camera, const View& view, double pixels) {
    const float angle = -static_cast<float>(pixels * 2 * std::tan(0.5 * camera.fovY) / view.height);
    const glm::mat3 turn =
        glm::mat3(std::cos(angle), 0, -std::sin(angle), 0, 1, 0, std::sin(angle), 0, std::cos(angle));
    Camera out = camera;
    out.aim = camera.eye + turn * (camera.aim - camera.eye);
    return out;
}

Result<std::vector<std::pair<std::string, Setup>>> edge_ways(const Setup& setup,
                                                             const std::vector<std::string>& words) {
    static const std::vector<std::string> all = {"none",        "filter",   "multisample",
                                                 "supersample", "temporal", "temporal at half"};
    std::vector<std::pair<std::string, Setup>> out;
    for (const std::string& word : words.empty() ? all : words) {
        const std::string kind = word.substr(0, word.find(' '));
        if (std::find(all.begin(), all.end(), word) == all.end())
            return fail("there is no such way of smoothing edges", word,
                        "There are none, filter, multisample, supersample, temporal and 'temporal at half'.");
        Setup s = setup;
        (void)s.set("edges.kind", kind);
        if (kind == "temporal") (void)s.set("edges.samples", std::string("8"));
        if (kind != word)
            for (const char* scale : {"output.scaleX", "output.scaleY"})
                (void)s.set(scale, 0.5);
        out.emplace_back(word, s);
    }
    return out;
}

Result<EdgeQuality> edge_quality(RenderSession& session, const EdgeQuestion& q,
                                 const std::function<bool(const char*, double)>& go_on) {
    EdgeQuality out;
    const double parts = double(q.ways.size()) + 4; // the truth takes as long as several ways
    const auto told = [&](const char* what, double done) { return !go_on || go_on(what, done / parts); };
    Setup many = plainly_rendered(q.setup);
    (void)many.set("output.dither", std::string("none"));
    const int side = std::min(q.side, 16384 / std::max(q.view.width, q.view.height));
    out.samples = side * side;
    bool going = true;
    auto truth =
        pictures_of(session, q, many, side, [&](double share) { return going = told("the truth", 4 * share); });
    if (!truth) return tl::unexpected(truth.error());
    for (std::size_t i = 1; i < truth->size(); ++i)
        out.change += edge_change((*truth)[i - 1], (*truth)[i], (*truth)[i - 1], (*truth)[i]) / q.frames;
    for (std::size_t w = 0; w < q.ways.size() && going; ++w) {
        EdgeWay way;
        way.word = q.ways[w].first;
        way.setup = q.ways[w].second;
        auto pictures = pictures_of(session, q, way.setup, 1, [&](double share) {
            return going = told(way.word.c_str(), 4 + double(w) + share);
        });
        if (!pictures) return tl::unexpected(pictures.error());
        if (pictures->size() != truth->size()) break;
        const FramePlan plan = plan_frame(q.scene, way.setup, q.view);
        way.still = edge_errors(pictures->front(), truth->front());
        way.moving = edge_errors(pictures->back(), truth->back());
        for (std::size_t i = 1; i < pictures->size(); ++i) {
            const double steps = double(pictures->size() - 1);
            way.change += edge_change((*pictures)[i - 1], (*pictures)[i], (*truth)[i - 1], (*truth)[i]) / steps;
            way.crawl += edge_crawl((*pictures)[i - 1], (*pictures)[i], (*truth)[i - 1], (*truth)[i]) / steps;
        }
        way.bytes = plan.bytesHeld;
        way.leftOut = edges_left_out(plan);
        out.ways.push_back(std::move(way));
    }
    return out;
}

} // namespace mirolux
