#include "core/truth/truth_picture.h"
#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/cost/statistics.h"
#include "core/finish/histogram.h"
#include "core/io/file.h"
#include "core/light/luminance.h"
#include "core/scene/object_edit.h"
#include "core/scene/project.h"
#include "core/truth/integrals.h"
#include "core/truth/source.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstring>

namespace mirolux::truth {

namespace {

constexpr int tile = 16;           // pixels
constexpr std::uint32_t slice = 8; // samples of a pixel in one pass
constexpr int tracer = 3; // counts up with each change that gives other samples: what was kept is of no use then
constexpr char mark[] = "mirolux truth 1\n";

std::size_t pixel_of(const Picture& p, int x, int y) {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(p.width) + static_cast<std::size_t>(x);
}

/// Tiles whose error is over what is asked for, or all of them.
std::vector<int> tiles_to_do(const Picture& p, const Goal& goal) {
    const int across = (p.width + tile - 1) / tile, down = (p.height + tile - 1) / tile;
    double mean = 0;
    for (std::size_t i = 0; i < p.sum.size(); ++i)
        mean += luminance(p.sum[i]) / std::max(1u, p.count[i]);
    mean /= static_cast<double>(p.sum.size());
    std::vector<int> out;
    for (int t = 0; t < across * down; ++t) {
        double errors = 0;
        int pixels = 0;
        bool room = false;
        for (int y = t / across * tile; y < std::min(p.height, (t / across + 1) * tile); ++y)
            for (int x = t % across * tile; x < std::min(p.width, (t % across + 1) * tile); ++x, ++pixels) {
                const std::size_t i = pixel_of(p, x, y);
                room = room || p.count[i] < goal.samples;
                errors += p.error(i);
            }
        // A tile is left alone when its own error is well below what is asked of the whole.
        const bool fine = goal.error > 0 && errors / pixels <= 0.7 * goal.error * mean;
        if (room && !fine) out.push_back(t);
    }
    return out;
}

} // namespace

Picture::Picture(int w, int h) : width(w), height(h) {
    const auto pixels = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
    sum.assign(pixels, glm::dvec3(0.0));
    squares.assign(pixels, 0.0);
    count.assign(pixels, 0u);
}

bool Picture::operator==(const Picture& o) const {
    return width == o.width && height == o.height && sum == o.sum && squares == o.squares && count == o.count &&
           rays == o.rays;
}

double Picture::error(std::size_t i) const {
    const double n = count[i];
    if (n < 2) return std::numeric_limits<double>::infinity();
    const double mean = luminance(sum[i]) / n;
    return std::sqrt(std::max(0.0, (squares[i] / n - mean * mean) / (n - 1)));
}

double Picture::relative_error() const {
    double errors = 0, mean = 0;
    for (std::size_t i = 0; i < sum.size(); ++i) {
        errors += error(i);
        mean += luminance(sum[i]) / std::max(1u, count[i]);
    }
    return mean > 0 ? errors / mean : 0;
}

std::uint32_t Picture::fewest() const {
    return count.empty() ? 0 : *std::min_element(count.begin(), count.end());
}

FloatImage Picture::image() const {
    FloatImage out{width, height, 4, std::vector<float>(sum.size() * 4)};
    for (std::size_t i = 0; i < sum.size(); ++i) {
        const glm::dvec3 mean = sum[i] / std::max(1.0, double(count[i]));
        for (int c = 0; c < 3; ++c)
            out.data[4 * i + static_cast<std::size_t>(c)] = static_cast<float>(mean[c]);
        out.data[4 * i + 3] = count[i] < 2 ? 0.0f : static_cast<float>(error(i));
    }
    return out;
}

/// Samples that a pixel has after the next pass: 1, 2, 4, 8, 16, and then 8 more each time.
static std::uint32_t next_count(std::uint32_t count) {
    return count == 0 ? 1 : count < slice ? 2 * count : count + slice - count % slice;
}

void refine(const SampleOf& sample, Picture& p, const Goal& goal, const std::function<bool(double)>& more) {
    const int across = (p.width + tile - 1) / tile;
    for (;;) {
        if (goal.error > 0 && p.fewest() >= 2 * slice && p.relative_error() <= goal.error) return;
        const std::vector<int> tiles = tiles_to_do(p, goal);
        if (tiles.empty()) return;
        for (std::size_t first = 0; first < tiles.size();) {
            const auto start = std::chrono::steady_clock::now();
            const std::uint32_t count =
                p.count[pixel_of(p, tiles[first] % across * tile, tiles[first] / across * tile)];
            const std::size_t last =
                std::min(tiles.size(), first + std::max<std::size_t>(8, 256 / std::max(1u, next_count(count) - count)));
            std::vector<std::uint64_t> rays(last - first, 0);
            parallel_for(static_cast<int>(first), static_cast<int>(last), [&](int k) {
                const int t = tiles[static_cast<std::size_t>(k)];
                for (int y = t / across * tile; y < std::min(p.height, (t / across + 1) * tile); ++y)
                    for (int x = t % across * tile; x < std::min(p.width, (t % across + 1) * tile); ++x) {
                        const std::size_t i = pixel_of(p, x, y);
                        const std::uint32_t end = std::min(goal.samples, next_count(p.count[i]));
                        for (std::uint32_t n = p.count[i]; n < end; ++n) {
                            const glm::dvec3 value = sample(x, y, n, rays[static_cast<std::size_t>(k) - first]);
                            p.sum[i] += value;
                            p.squares[i] += luminance(value) * luminance(value);
                        }
                        p.count[i] = std::max(p.count[i], end);
                    }
            });
            for (const std::uint64_t r : rays)
                p.rays += r;
            p.seconds += std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
            first = last;
            double done = 0;
            for (const std::uint32_t n : p.count)
                done += std::min(n, goal.samples);
            if (!more(done / (double(goal.samples) * static_cast<double>(p.count.size())))) return;
        }
    }
}

void refine(const PathTracer& tracer, Picture& p, const Goal& goal, const std::function<bool(double)>& more) {
    refine([&](int x, int y, std::uint32_t n, std::uint64_t& rays) { return tracer.sample(x, y, n, rays); }, p, goal,
           more);
}

std::filesystem::path kept_path(const std::string& digest) {
    const char *cache = std::getenv("XDG_CACHE_HOME"), *home = std::getenv("HOME");
    const std::filesystem::path base =
        cache && *cache ? std::filesystem::path(cache) : std::filesystem::path(home ? home : ".") / ".cache";
    return base / "mirolux" / "truth" / (digest + ".truth");
}

RaySpeed time_rays(const PathTracer& tracer, const RayScene& rays, int rounds) {
    std::vector<AskedRay> nearest, toLights;
    const View& view = tracer.view();
    for (int y = 0; y < view.height; y += 3)
        for (int x = 0; x < view.width; x += 3)
            for (const AskedRay& r : tracer.rays_of(x, y, 0))
                (r.to < 0 ? nearest : toLights).push_back(r);
    Light source; // as a lamp overhead would be
    source.type = LightType::directional;
    source.direction = glm::normalize(glm::vec3(0.2f, -1, -0.3f));
    source.sourceSize = glm::radians(3.0f);
    std::vector<Ray> toSource;
    for (const AskedRay& r : nearest) {
        if (!r.seen) continue;
        const RayHit hit = rays.any_surface(r.ray, r.from, true);
        if (hit.object < 0) continue;
        const glm::vec3 at = r.ray.origin + r.ray.direction * hit.distance;
        for (std::uint32_t n = 0; n < 8; ++n)
            toSource.push_back({at + hit.normal * clear_of(at),
                                glm::vec3(Source(source, at).direction(Sampler(0, n, 1, Sequence::sobol).two()))});
    }
    const std::vector<float> ends(toSource.size(), std::numeric_limits<float>::infinity());
    std::vector<float> open(toSource.size());
    RaySpeed out{nearest.size(), toLights.size()};
    std::vector<double> a, b, both, single, together;
    double kept = 0; // so that nothing is left out as useless
    const auto seconds = [](const auto& work) {
        const auto start = std::chrono::steady_clock::now();
        work();
        return std::max(std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(), 1e-9);
    };
    for (int round = 0; round < rounds; ++round) {
        const double n = seconds([&] {
            for (const AskedRay& r : nearest)
                kept += rays.any_surface(r.ray, r.from, r.seen).distance;
        });
        const double l = seconds([&] {
            for (const AskedRay& r : toLights)
                kept += rays.transmitted(r.ray, r.from, r.to);
        });
        single.push_back(static_cast<double>(toSource.size()) / seconds([&] {
                             for (const Ray& r : toSource)
                                 kept += rays.transmitted(r, 0, ends.front());
                         }));
        together.push_back(static_cast<double>(toSource.size()) / seconds([&] {
                               rays.transmitted(toSource, ends, open);
                               kept += open.empty() ? 0 : open.back();
                           }));
        a.push_back(static_cast<double>(nearest.size()) / n);
        b.push_back(static_cast<double>(toLights.size()) / l);
        both.push_back(static_cast<double>(nearest.size() + toLights.size()) / (n + l));
    }
    if (kept < 0) return {}; // it never is
    out.nearestPerSecond = median(a);
    out.toLightsPerSecond = median(b);
    out.perSecond = median(both);
    out.sourcePerSecond = median(single);
    out.togetherPerSecond = median(together);
    return out;
}

std::string digest_of(const Scene& scene, const Setup& setup, const View& view, const Options& o) {
    Digest d;
    const auto add = [&](const auto& value) { d.add(&value, sizeof value); };
    add(tracer);
    const auto text = [&](const std::string& t) { d.add(t.data(), t.size()); };
    add(scene.asset->digest);
    for (const Object& object : scene.objects()) {
        add(object.transform);
        add(object.shape);
        add(object.hidden);
        add(object.casts);
    }
    for (const Light& l : lights_of(scene, setup, view)) {
        if (!l.enabled) continue;
        const glm::vec3 color = effective_color(l);
        for (const float v : {color.x, color.y, color.z, l.intensity, l.range, l.position.x, l.position.y, l.position.z,
                              l.direction.x, l.direction.y, l.direction.z, l.innerConeAngle, l.outerConeAngle,
                              l.fadeInner, l.fadeOuter, l.sourceSize, l.diffuseShare, l.specularShare})
            add(v);
        add(l.type);
        add(l.id);
    }
    add(scene.sky.horizon);
    add(scene.sky.zenith);
    // Of the setup what a traced picture depends on: surfaces, lights, ambient, air.
    for (const char* key : {"shading.model", "shading.exponent", "shading.normalised", "shading.normalMaps",
                            "shading.optics", "light.window", "light.threshold", "light.fadeInner", "light.fadeOuter",
                            "air.kind", "air.extinction", "air.albedo"})
        text(to_text(setup.get(key)));
    for (const Setting& setting : all_settings())
        if (setting.key.starts_with("sky.") || setting.key.starts_with("sun.") || setting.key.starts_with("moon.") ||
            setting.key.starts_with("night.") || setting.key == "ambient.kind" ||
            setting.key.starts_with("environment."))
            text(to_text(setup.get(setting.key)));
    const AmbientLight ambient = ambient_light(setup);
    add(ambient.top);
    add(ambient.side);
    add(ambient.bottom);
    for (const glm::vec3& v : {view.camera.eye, view.camera.aim})
        add(v);
    add(view.camera.fovY);
    add(view.camera.near);
    add(view.width);
    add(view.height);
    text(word(o.layer));
    for (const double v : {double(o.bounces), double(o.seed), o.clamp, double(o.light), o.radius, o.fade, o.housing})
        add(v);
    for (const bool b : {o.sequence == Sequence::sobol, o.smooth, o.shadows, o.complete, o.skyAround})
        add(b);
    return d.hex();
}

Result<void> write_picture(const std::filesystem::path& path, const Picture& p, const std::string& digest) {
    std::string out = mark + digest + "\n";
    const auto add = [&](const auto& value) { out.append(reinterpret_cast<const char*>(&value), sizeof value); };
    add(static_cast<std::int32_t>(p.width));
    add(static_cast<std::int32_t>(p.height));
    add(p.rays);
    add(p.seconds);
    for (std::size_t i = 0; i < p.sum.size(); ++i) {
        add(p.sum[i]);
        add(p.squares[i]);
        add(p.count[i]);
    }
    Digest check;
    check.add(out.data(), out.size());
    add(check.value);
    std::error_code ec;
    std::filesystem::create_directories(path.parent_path(), ec);
    return write_file_atomically(path, out);
}

Result<Picture> read_picture(const std::filesystem::path& path, const std::string& digest) {
    auto bytes = read_file(path);
    if (!bytes) return tl::unexpected(bytes.error());
    const auto bad = [&](const char* what) {
        return fail("the kept truth cannot be used", path.string(), what + std::string("; it is traced anew"));
    };
    const std::string head = mark + digest + "\n";
    constexpr std::size_t numbers = 4 + 4 + 8 + 8, each = sizeof(glm::dvec3) + 8 + 4;
    if (bytes->size() < head.size() + numbers + 8) return bad("it is cut off");
    if (std::memcmp(bytes->data(), mark, sizeof mark - 1) != 0) return bad("it is no such file, or of another version");
    Digest check;
    check.add(bytes->data(), bytes->size() - 8);
    if (std::memcmp(bytes->data() + bytes->size() - 8, &check.value, 8) != 0) return bad("it is damaged");
    if (std::memcmp(bytes->data(), head.data(), head.size()) != 0)
        return bad("it is of another scene, camera or setup");
    std::size_t at = head.size();
    const auto take = [&](auto& value) {
        std::memcpy(&value, bytes->data() + at, sizeof value);
        at += sizeof value;
    };
    std::int32_t width = 0, height = 0;
    take(width);
    take(height);
    if (width <= 0 || height <= 0 || width > 1 << 15 || height > 1 << 15 ||
        bytes->size() !=
            head.size() + numbers + 8 + each * static_cast<std::size_t>(width) * static_cast<std::size_t>(height))
        return bad("its size does not fit its picture");
    Picture p(width, height);
    take(p.rays);
    take(p.seconds);
    for (std::size_t i = 0; i < p.sum.size(); ++i) {
        take(p.sum[i]);
        take(p.squares[i]);
        take(p.count[i]);
    }
    return p;
}

Resumed resumed(const std::string& digest, int width, int height) {
    Resumed out{Picture(width, height), {}};
    const std::filesystem::path path = kept_path(digest);
    std::error_code ec;
    if (!std::filesystem::exists(path, ec)) return out;
    auto read = read_picture(path, digest);
    if (!read) {
        out.trouble = read.error();
        std::filesystem::rename(path, path.string() + ".damaged", ec);
    } else if (read->width == width && read->height == height)
        out.picture = std::move(*read);
    return out;
}

static constexpr struct {
    Layer layer;
    const char* frame;
} counterparts[] = {{Layer::final, "final"},
                    {Layer::direct, "direct"},
                    {Layer::diffuse, "diffuse"},
                    {Layer::specular, "specular"},
                    {Layer::indirect, "ambient"},
                    {Layer::indirectDiffuse, "ambientDiffuse"},
                    {Layer::indirectSpecular, "environment"},
                    {Layer::scattering, "airlight"},
                    {Layer::visibility, "lightshadow"},
                    {Layer::occlusion, "screenOcclusion"}};

std::string frame_layer(Layer layer) {
    for (const auto& c : counterparts)
        if (c.layer == layer) return c.frame;
    return {};
}

std::optional<Layer> truth_of(const std::string& frameLayer) {
    for (const auto& c : counterparts)
        if (frameLayer == c.frame) return c.layer;
    return std::nullopt;
}

ByteImage shown(const FloatImage& values, Layer layer, const Setup& setup) {
    if (!is_geometry(layer)) { // truth is linear, whatever the frame's sums are made of
        Setup linear = setup;
        linear.set("output.space", std::string("linear"));
        return displayed_picture(values, linear);
    }
    constexpr float half = 6; // metres at which a mirror's distance is half as bright
    ByteImage out{values.width, values.height, {}};
    for (std::size_t i = 0; i < values.data.size(); i += static_cast<std::size_t>(values.channels)) {
        const float v = values.data[i],
                    grey = layer == Layer::mirror ? (v > 0 ? half / (half + v) : 0) : std::clamp(v, 0.0f, 1.0f);
        const auto byte = static_cast<std::uint8_t>(std::lround(255 * grey));
        out.rgba.insert(out.rgba.end(), {byte, byte, byte, 255});
    }
    return out;
}

bool hold_where_lit(FloatImage& frame, FloatImage& truth) {
    bool any = false;
    const auto of = [](const FloatImage& image, std::size_t pixel) { return pixel * std::size_t(image.channels); };
    for (std::size_t i = 0; i < frame.data.size() / std::size_t(frame.channels); ++i) {
        if (frame.data[of(frame, i) + 3] > 0) {
            any = true;
            continue;
        }
        for (std::size_t c = 0; c < 3; ++c)
            frame.data[of(frame, i) + c] = truth.data[of(truth, i) + c] = 0;
    }
    return any;
}

Distance distance(const FloatImage& a, const FloatImage& t) {
    Distance out;
    std::vector<double> apart;
    double truth = 0;
    for (std::size_t i = 0; i < static_cast<std::size_t>(t.width) * static_cast<std::size_t>(t.height); ++i)
        for (std::size_t c = 0; c < 3; ++c) {
            const double x = a.data[i * static_cast<std::size_t>(a.channels) + c],
                         y = t.data[i * static_cast<std::size_t>(t.channels) + c];
            apart.push_back(std::abs(x - y));
            out.mean += std::abs(x - y);
            out.rms += (x - y) * (x - y);
            out.bias += x - y;
            truth += y;
        }
    if (apart.empty()) return out;
    const double n = static_cast<double>(apart.size()), mean = std::max(truth / n, 1e-12);
    std::sort(apart.begin(), apart.end());
    out.mean /= n * mean;
    out.rms = std::sqrt(out.rms / n) / mean;
    out.bias /= n * mean;
    out.p95 = apart[static_cast<std::size_t>(0.95 * (n - 1))] / mean;
    return out;
}

} // namespace mirolux::truth
