#include "core/flat/painted.h"
#include <algorithm>
#include <cmath>

namespace mirolux::flat {

namespace {

/// The nearest texel, linear, with its alpha.
glm::dvec4 texel(const TextureImage& image, const glm::dvec2& uv) {
    const int x = std::clamp(static_cast<int>(std::floor(uv.x * image.width)), 0, image.width - 1),
              y = std::clamp(static_cast<int>(std::floor(uv.y * image.height)), 0, image.height - 1);
    const std::uint8_t* p = &image.rgba[4 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(image.width) +
                                             static_cast<std::size_t>(x))];
    return {srgb_decode(p[0] / 255.0), srgb_decode(p[1] / 255.0), srgb_decode(p[2] / 255.0), p[3] / 255.0};
}

void over(float* target, const glm::dvec3& color, double alpha) {
    for (int c = 0; c < 3; ++c)
        target[c] = static_cast<float>(color[c] * alpha + target[c] * (1 - alpha));
}

void draw(const Quad& q, const Sheet& sheet, const SceneAsset& asset, const Window& window, Painted& out) {
    const TextureImage& colors = asset.images[static_cast<std::size_t>(sheet.image)];
    const TextureImage* glow = sheet.emission >= 0 ? &asset.images[static_cast<std::size_t>(sheet.emission)] : nullptr;
    if (glow && glow->rgba.empty()) glow = nullptr;
    const glm::dvec2 extent = glm::abs(glm::dvec2(q.right)) + glm::abs(glm::dvec2(q.up)), middle(q.middle);
    const glm::dvec2 a = window.pixel(middle - extent), b = window.pixel(middle + extent);
    const glm::dvec2 right = glm::dvec2(q.right) / double(glm::dot(q.right, q.right)),
                     up = glm::dvec2(q.up) / double(glm::dot(q.up, q.up));
    for (int y = std::max(0, static_cast<int>(b.y)); y < std::min(window.height, static_cast<int>(a.y) + 1); ++y)
        for (int x = std::max(0, static_cast<int>(a.x)); x < std::min(window.width, static_cast<int>(b.x) + 1); ++x) {
            const glm::dvec2 to = window.at(glm::dvec2(x, y) + 0.5) - middle,
                             local(glm::dot(to, right), glm::dot(to, up));
            if (std::abs(local.x) > 1 || std::abs(local.y) > 1) continue;
            const glm::dvec2 uv =
                glm::dvec2(q.uvLow) + glm::dvec2(q.uvSize) * glm::dvec2(local.x * 0.5 + 0.5, 0.5 - local.y * 0.5);
            const glm::dvec4 color = texel(colors, uv) * glm::dvec4(q.tint);
            const auto i =
                static_cast<std::size_t>(y) * static_cast<std::size_t>(window.width) + static_cast<std::size_t>(x);
            over(&out.scene.data[3 * i], glm::dvec3(color), color.a);
            const glm::dvec3 shines =
                glow ? glm::dvec3(texel(*glow, uv)) * double(q.glow.x) * glm::dvec3(q.tint) : glm::dvec3(0.0);
            over(&out.glow.data[3 * i], shines, color.a);
            if (color.a < 0.5) continue; // what covers at least half of the pixel says what it is
            out.lit[i] = (q.flags & 1u) != 0;
            out.receives[i] = (q.flags & 8u) != 0;
        }
}

} // namespace

/// What a view shows in its own pixels.
static Painted painted_in(const Scene& scene, const View& view) {
    const Window window = window_of(view);
    const auto pixels = static_cast<std::size_t>(view.width) * static_cast<std::size_t>(view.height);
    const FloatImage empty{view.width, view.height, 3, std::vector<float>(3 * pixels)};
    Painted out{empty, empty, std::vector<bool>(pixels, true), std::vector<bool>(pixels, true)};
    const Quads quads = quads_of(*scene.flat, view);
    for (const QuadRun& run : quads.runs)
        for (std::uint32_t i = 0; i < run.count; ++i)
            draw(quads.quads[run.first + i], scene.flat->sheets[static_cast<std::size_t>(run.sheet)], *scene.asset,
                 window, out);
    return out;
}

Painted painted(const Scene& scene, const Setup& setup, const View& view) {
    const View stage = stage_view(setup, view);
    const Painted small = painted_in(scene, stage);
    if (stage.width == view.width && stage.height == view.height) return small;
    const FloatImage empty{view.width, view.height, 3, {}};
    Painted out{empty, empty, {}, {}};
    for (int y = 0; y < view.height; ++y)
        for (int x = 0; x < view.width; ++x) {
            const glm::ivec2 p = stage_pixel(view, stage, {x, y});
            const auto i = static_cast<std::size_t>(p.y * stage.width + p.x);
            for (const auto& [from, to] : {std::pair(&small.scene, &out.scene), {&small.glow, &out.glow}})
                to->data.insert(to->data.end(), from->pixel(p.x, p.y), from->pixel(p.x, p.y) + 3);
            out.lit.push_back(small.lit[i]);
            out.receives.push_back(small.receives[i]);
        }
    return out;
}

} // namespace mirolux::flat
