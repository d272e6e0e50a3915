#include "core/ambient/probe_capture.h"
#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/finish/render_scale.h"
#include "core/image/image_io.h"
#include "core/io/wire.h"
#include "core/light/luminance.h"
#include <cmath>
#include <fmt/format.h>
#include <mutex>

namespace mirolux {

namespace {

const glm::vec3 looks[6] = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};

/// A texel of a cube map's face is that of the view in the same direction, mirrored: sides left and right, the others
/// top and bottom.
glm::ivec2 seen_texel(int face, int x, int y, int size) {
    return face == 2 || face == 3 ? glm::ivec2(x, size - 1 - y) : glm::ivec2(size - 1 - x, y);
}

FloatImage as_cube(const FloatImage& seen) {
    const int size = seen.width;
    FloatImage out{size, 6 * size, 4, std::vector<float>(std::size_t(24) * size * size, 1.0f)};
    for (int row = 0; row < 6 * size; ++row)
        for (int x = 0; x < size; ++x) {
            const glm::ivec2 at = seen_texel(row / size, x, row % size, size);
            const float* from = seen.pixel(at.x, row / size * size + at.y);
            std::copy(from, from + 3, out.pixel(x, row));
        }
    return out;
}

} // namespace

std::array<View, 6> probe_views(const Probe& probe, int size, const View& view) {
    std::array<View, 6> out;
    for (int face = 0; face < 6; ++face) {
        View& v = out[static_cast<std::size_t>(face)];
        v.camera.eye = probe.position;
        v.camera.aim = probe.position + looks[face];
        v.camera.fovY = glm::half_pi<float>();
        v.width = v.height = size;
        v.seconds = view.seconds;
    }
    return out;
}

Setup capture_setup(const Setup& setup) {
    Setup s = setup;
    s.set("probe.kind", std::string("none"));
    if (s.choice("environment.source") == "capture") s.set("environment.source", std::string("sky"));
    return s;
}

std::string capture_digest(const Scene& scene, const Setup& setup, const View& view, const Probe& probe) {
    // What only says how the same light is computed, or shown, does not make another capture.
    static const std::array elsewhere = {"path.", "culling.", "cluster.", "volumes.", "exposure.",
                                         "tone.", "output.",  "probe.",   "finish.",  "frame."};
    Json all = {{"place", to_array(probe.position)}, {"size", setup.choice("probe.size")}, {"seconds", view.seconds}};
    const Json chosen = to_json(setup);
    for (const auto& [key, value] : chosen.items())
        if (std::none_of(elsewhere.begin(), elsewhere.end(), [&](const char* e) { return key.starts_with(e); }))
            all["setup"][key] = value;
    for (const Light& l : scene.lights)
        all["lights"].push_back(to_json(l));
    for (const CheapLight& l : scene.cheapLights)
        all["cheap"].push_back(to_json(l));
    for (const AirVolume& v : scene.volumes)
        all["air"].push_back(to_json(v));
    if (scene.placed)
        for (const ObjectEdit& e : scene.placed->edits)
            all["objects"].push_back(to_json(e));
    for (const ClipPlay& c : scene.clips)
        all["clips"].push_back(to_json(c));
    if (scene.asset && scene.asset->built) all["built"] = to_json(*scene.asset->built);
    all["sky"] = {to_array(scene.sky.horizon), to_array(scene.sky.zenith)};
    const std::string text = all.dump();
    Digest d;
    d.add(text.data(), text.size());
    if (scene.asset) d.add(&scene.asset->fileDigest, sizeof scene.asset->fileDigest);
    return d.hex();
}

FloatImage stacked(const std::array<FloatImage, 6>& pictures) {
    FloatImage out{pictures[0].width, 6 * pictures[0].width, pictures[0].channels, {}};
    for (const FloatImage& p : pictures)
        out.data.insert(out.data.end(), p.data.begin(), p.data.end());
    return out;
}

static Result<FrameRecord> capture_view(RenderSession& session, const Scene& scene, const Setup& setup,
                                        const View& view) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.floatLayers = {capture_layer};
    return session.render(scene, plainly_rendered(setup), view, o);
}

Result<FloatImage> capture(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                           const Probe& probe) {
    const Setup s = capture_setup(setup);
    const std::array<View, 6> views = probe_views(probe, std::stoi(setup.choice("probe.size")), view);
    std::array<FloatImage, 6> faces;
    for (std::size_t i = 0; i < 6; ++i) {
        auto record = capture_view(session, scene, s, views[i]);
        if (!record) return tl::unexpected(record.error());
        faces[i] = std::move(record->floats.at(capture_layer));
    }
    return stacked(faces);
}

Result<double> view_cost(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                         const Probe& probe) {
    const Setup s = capture_setup(setup);
    const std::array<View, 6> views = probe_views(probe, std::stoi(setup.choice("probe.size")), view);
    double ms = 0;
    for (const std::size_t face : {0u, 4u}) { // not the same twice: that one would be held
        const auto record = capture_view(session, scene, s, views[face]);
        if (!record) return tl::unexpected(record.error());
        ms = record->answerMs;
    }
    return ms;
}

std::filesystem::path probe_file(const std::filesystem::path& project, const Probe& probe) {
    std::string name;
    for (const char c : probe.name)
        name += std::isalnum(static_cast<unsigned char>(c)) ? c : '-';
    return std::filesystem::absolute(project).parent_path() / (project.stem().string() + ".probes") /
           (name + "-" + std::to_string(probe.id) + ".exr");
}

Result<void> write_probe(const std::filesystem::path& file, const FloatImage& faces) {
    std::error_code failed;
    std::filesystem::create_directories(file.parent_path(), failed);
    if (failed)
        return fail("the folder of captures cannot be made: " + failed.message(), file.parent_path().string(),
                    "Make room there, or save the project where one may write.");
    return write_exr(file, faces);
}

ProbeLight probe_light(FloatImage faces) {
    ProbeLight out;
    out.faces = as_cube(faces);
    LightSums sums;
    LightPart all;
    const int size = out.faces.width;
    float brightest = 0;
    for (int row = 0; row < 6 * size; ++row)
        for (int x = 0; x < size; ++x) {
            const double s = (2 * x + 1.0) / size - 1, t = (2 * (row % size) + 1.0) / size - 1,
                         solid = 4.0 / (size * size) / std::pow(1 + s * s + t * t, 1.5);
            const float* p = out.faces.pixel(x, row);
            sums.enter(cube_direction(row / size, s, t), glm::dvec3(p[0], p[1], p[2]) * solid, all);
            brightest = std::max({brightest, p[0], p[1], p[2]});
        }
    out.harmonics = sums.harmonics;
    for (std::size_t i = 1; i < 9; ++i)
        out.harmonics[i] *= i < 4 ? 2.0 / 3.0 : 0.25;
    out.scale = std::max(1.0, brightest / 60000.0);
    out.mean = all.light / (4 * glm::pi<double>());
    out.bright = lower_bright(out.faces);
    return out;
}

FloatImage faces_at(const FloatImage& faces, int size) {
    if (faces.width == size) return faces;
    FloatImage out{size, 6 * size, faces.channels, std::vector<float>(std::size_t(6) * size * size * faces.channels)};
    const double step = double(faces.width) / size;
    const int part = std::max(1, static_cast<int>(step));
    for (int row = 0; row < 6 * size; ++row)
        for (int x = 0; x < size; ++x) {
            const int top = row / size * faces.width + std::min(static_cast<int>(row % size * step), faces.width - 1),
                      left = std::min(static_cast<int>(x * step), faces.width - 1);
            for (int c = 0; c < faces.channels; ++c) {
                double sum = 0;
                for (int j = 0; j < part; ++j)
                    for (int i = 0; i < part; ++i)
                        sum += faces.pixel(left + i, top + j)[c];
                out.pixel(x, row)[c] = static_cast<float>(sum / (part * part));
            }
        }
    return out;
}

static Result<std::shared_ptr<const ProbeLight>> make_probe(const std::filesystem::path& file, int size) {
    auto faces = read_exr(file);
    if (!faces) return tl::unexpected(faces.error());
    if (faces->width < 1 || faces->height != 6 * faces->width)
        return fail(fmt::format("is {}x{}, not six square pictures one below the other", faces->width, faces->height),
                    file.string(), "Capture the probe again.");
    std::size_t bad = 0;
    for (float& v : faces->data)
        if (!std::isfinite(v) || v < 0) {
            v = 0;
            ++bad;
        }
    auto light = std::make_shared<ProbeLight>(probe_light(faces_at(*faces, size)));
    if (bad) light->remark = fmt::format("{} of its values are not finite or under 0; they count as black.", bad);
    return light;
}

Result<std::shared_ptr<const ProbeLight>> read_probe(const std::filesystem::path& file, int size) {
    struct Kept {
        std::filesystem::path file;
        std::filesystem::file_time_type written;
        int size;
        Result<std::shared_ptr<const ProbeLight>> light;
    };
    constexpr std::size_t most = 64;
    static std::mutex mutex;
    static std::vector<Kept> kept; // the latest first
    std::error_code none;
    const auto written = std::filesystem::last_write_time(file, none);
    if (none) return fail("cannot be read: " + none.message(), file.string(), "Capture the probe again.");
    const std::lock_guard lock(mutex);
    for (const Kept& k : kept)
        if (k.file == file && k.written == written && k.size == size) return k.light;
    std::erase_if(kept, [&](const Kept& k) { return k.file == file && k.size == size; });
    kept.insert(kept.begin(), {file, written, size, make_probe(file, size)});
    if (kept.size() > most) kept.pop_back();
    return kept.front().light;
}

glm::dvec3 radiance_of(const FloatImage& faces, const glm::dvec3& d) {
    const glm::dvec3 a = glm::abs(d);
    const int axis = a.x >= a.y && a.x >= a.z ? 0
                     : a.y >= a.z             ? 1
                                              : 2,
              face = 2 * axis + (d[axis] < 0 ? 1 : 0), size = faces.width;
    const double s = face == 0   ? -d.z
                     : face == 1 ? d.z
                     : face == 5 ? -d.x
                                 : d.x,
                 t = face == 2   ? d.z
                     : face == 3 ? -d.z
                                 : -d.y;
    const auto texel = [&](double v) {
        return std::clamp(static_cast<int>((v / a[axis] + 1) / 2 * size), 0, size - 1);
    };
    const float* p = faces.pixel(texel(s), face * size + texel(t));
    return {p[0], p[1], p[2]};
}

double walled_in(const RayScene& rays, const glm::vec3& position) {
    constexpr int ways = 96;
    int behind = 0;
    for (int i = 0; i < ways; ++i) { // evenly over the sphere, along a spiral
        const double y = 1 - (2 * i + 1.0) / ways, r = std::sqrt(1 - y * y), turn = i * 2.399963229728653;
        const RayHit hit =
            rays.any_surface({position, glm::vec3(r * std::cos(turn), y, r * std::sin(turn))}, 0.0f, false);
        if (hit.object >= 0 && !hit.front) ++behind;
    }
    return double(behind) / ways;
}

std::string probe_trouble(const RayScene& rays, const Probe& probe) {
    const double share = walled_in(rays, probe.position);
    if (share < 0.5) return {};
    return fmt::format(
        "The probe '{}' stands within something: {:.0f} % of the ways from it meet surfaces from behind. "
        "Move it into the open.",
        probe.name, 100 * share);
}

FloatImage ball_picture(const ProbeLight& light, Ball ball, const View& view, const glm::vec3& place, int size) {
    FloatImage out{size, size, 4, std::vector<float>(std::size_t(4) * size * size, 0.0f)};
    const glm::dvec3 toEye = glm::normalize(glm::dvec3(view.camera.eye) - glm::dvec3(place)),
                     up = std::abs(toEye.y) > 0.999 ? glm::dvec3(0, 0, 1) : glm::dvec3(0, 1, 0),
                     right = glm::normalize(glm::cross(up, toEye)), above = glm::cross(toEye, right);
    parallel_for(0, size, [&](int y) {
        for (int x = 0; x < size; ++x) {
            const double u = (2 * x + 1.0) / size - 1, v = 1 - (2 * y + 1.0) / size, r2 = u * u + v * v;
            if (r2 >= 1) continue;
            const glm::dvec3 n = right * u + above * v + toEye * std::sqrt(1 - r2);
            const glm::dvec3 l = ball == Ball::mirror ? radiance_of(light.faces, glm::reflect(-toEye, n))
                                                      : glm::max(harmonic_radiance(light.harmonics, n), glm::dvec3(0));
            float* p = out.pixel(x, y);
            for (int c = 0; c < 3; ++c)
                p[c] = static_cast<float>(l[c]);
            p[3] = static_cast<float>(std::clamp((1 - std::sqrt(r2)) * size / 2, 0.0, 1.0)); // its edge is even
        }
    });
    return out;
}

} // namespace mirolux
