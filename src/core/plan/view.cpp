#include "core/plan/view.h"
#include <cmath>
#include <glm/gtc/matrix_transform.hpp>
#include <utility>

namespace mirolux {

const char* word(Stereo stereo) {
    return stereo == Stereo::off ? "off" : stereo == Stereo::twoPasses ? "two-passes" : "one-pass";
}

std::optional<Stereo> stereo_of(const std::string& text) {
    for (const Stereo s : {Stereo::off, Stereo::twoPasses, Stereo::onePass})
        if (text == word(s)) return s;
    return std::nullopt;
}

double aspect_of(const View& view) {
    if (view.wholeWidth > 0 && view.wholeHeight > 0) return double(view.wholeWidth) / view.wholeHeight;
    const glm::ivec2 shown = shown_size(view);
    return double(shown.x) / shown.y;
}

glm::ivec2 shown_size(const View& view) {
    return view.shownWidth > 0 && view.shownHeight > 0 ? glm::ivec2(view.shownWidth, view.shownHeight)
                                                       : glm::ivec2(view.width, view.height);
}

glm::ivec2 rendered_pixel(const View& view, glm::ivec2 shown) {
    const glm::ivec2 size = shown_size(view);
    return {static_cast<int>(std::int64_t(shown.x) * view.width / size.x),
            static_cast<int>(std::int64_t(shown.y) * view.height / size.y)};
}

View at_whole_size(View view) {
    if (view.wholeWidth > 0 && view.wholeHeight > 0) {
        const glm::dvec2 factor = glm::dvec2(view.width, view.height) / glm::dvec2(shown_size(view));
        if (view.shownWidth > 0) {
            view.shownWidth = view.wholeWidth;
            view.shownHeight = view.wholeHeight;
        }
        view.width = std::max(1, static_cast<int>(std::lround(std::exchange(view.wholeWidth, 0) * factor.x)));
        view.height = std::max(1, static_cast<int>(std::lround(std::exchange(view.wholeHeight, 0) * factor.y)));
    }
    return view;
}

std::vector<View> eye_views(const View& view) {
    if (view.stereo == Stereo::off) return {view};
    const glm::mat4 m = view_matrix(view.camera);
    const glm::vec3 right(m[0][0], m[1][0], m[2][0]);
    std::vector<View> eyes(2, view);
    for (int e = 0; e < 2; ++e) {
        const glm::vec3 shift = right * (view.eyeDistance * (e == 0 ? -0.5f : 0.5f));
        eyes[e].stereo = Stereo::off;
        eyes[e].camera.eye += shift;
        eyes[e].camera.aim += shift;
    }
    return eyes;
}

Camera enclosing_camera(const View& view) {
    Camera camera = view.camera;
    if (view.stereo == Stereo::off) return camera;
    const glm::mat4 m = view_matrix(camera);
    const glm::vec3 back(m[0][2], m[1][2], m[2][2]);
    const float sideSlope = std::tan(0.5f * camera.fovY) * static_cast<float>(aspect_of(view));
    const glm::vec3 shift = back * (0.5f * view.eyeDistance / sideSlope);
    camera.eye += shift;
    camera.aim += shift;
    return camera;
}

glm::mat4 view_matrix(const Camera& camera) {
    glm::vec3 forward = camera.aim - camera.eye;
    const float l = glm::length(forward);
    forward = l > 1e-6f ? forward / l : glm::vec3(0, 0, -1);
    const glm::vec3 up = std::abs(forward.y) > 0.9999f ? glm::vec3(0, 0, forward.y > 0 ? 1 : -1) : glm::vec3(0, 1, 0);
    return glm::lookAt(camera.eye, camera.eye + forward, up);
}

glm::mat4 projection_matrix(const Camera& camera, double aspect) {
    glm::mat4 m(0.0f);
    if (camera.span > 0) { // a Flat stage: every depth is nearly one half
        m[1][1] = 2.0f / camera.span;
        m[0][0] = m[1][1] / static_cast<float>(aspect);
        m[2][2] = 1e-6f;
        m[3][2] = 0.5f;
        m[3][3] = 1.0f;
        return m;
    }
    const float f = 1.0f / std::tan(0.5f * camera.fovY);
    m[0][0] = f / static_cast<float>(aspect);
    m[1][1] = f;
    m[2][3] = -1.0f;
    m[3][2] = camera.near;
    return m;
}

std::array<glm::vec4, 5> frustum_planes(const Camera& camera, double aspect) {
    const glm::mat4 m = glm::transpose(projection_matrix(camera, aspect) * view_matrix(camera));
    std::array<glm::vec4, 5> planes = {m[3] + m[0], m[3] - m[0], m[3] + m[1], m[3] - m[1], m[3] - m[2]};
    for (glm::vec4& p : planes)
        p /= glm::length(glm::vec3(p));
    return planes;
}

bool intersects(const std::array<glm::vec4, 5>& planes, const Box& box) {
    for (const glm::vec4& p : planes) {
        const glm::vec3 farthest(p.x > 0 ? box.high.x : box.low.x, p.y > 0 ? box.high.y : box.low.y,
                                 p.z > 0 ? box.high.z : box.low.z);
        if (glm::dot(glm::vec3(p), farthest) + p.w < 0.0f) return false;
    }
    return true;
}

bool intersects(const std::array<glm::vec4, 5>& planes, const glm::vec3& center, float radius) {
    for (const glm::vec4& p : planes)
        if (glm::dot(glm::vec3(p), center) + p.w < -radius) return false;
    return true;
}

PixelRect united(const PixelRect& a, const PixelRect& b) {
    if (a.empty()) return b;
    if (b.empty()) return a;
    return {std::min(a.x0, b.x0), std::min(a.y0, b.y0), std::max(a.x1, b.x1), std::max(a.y1, b.y1)};
}

PixelRect sphere_rect(const View& view, const glm::vec3& center, float radius) {
    const PixelRect whole{0, 0, view.width, view.height};
    const glm::vec3 c = glm::vec3(view_matrix(view.camera) * glm::vec4(center, 1.0f));
    if (-c.z - radius <= view.camera.near) return -c.z + radius <= view.camera.near ? PixelRect{} : whole;
    const float f = 1.0f / std::tan(0.5f * view.camera.fovY);
    const float aspect = static_cast<float>(aspect_of(view));
    // Tangent lines from the eye to the sphere's disc in the plane of one axis and the depth: slopes of the two bounds.
    auto bounds = [&](float x, float z) {
        const float d2 = x * x + z * z, t2 = d2 - radius * radius;
        if (t2 <= 0.0f) return std::pair(-3.4e38f, 3.4e38f);
        const float t = std::sqrt(t2), s = radius;
        const glm::vec2 a = glm::vec2(t * x - s * z, s * x + t * z), b = glm::vec2(t * x + s * z, -s * x + t * z);
        auto slope = [](const glm::vec2& v) { return v.y > 1e-9f ? v.x / v.y : (v.x > 0 ? 3.4e38f : -3.4e38f); };
        return std::pair(std::min(slope(a), slope(b)), std::max(slope(a), slope(b)));
    };
    const auto [left, right] = bounds(c.x, -c.z);
    const auto [bottom, top] = bounds(c.y, -c.z);
    auto pixel = [](float ndc, int size, float round) {
        const float p = (ndc * 0.5f + 0.5f) * static_cast<float>(size);
        return static_cast<int>(std::clamp(std::floor(p + round), 0.0f, static_cast<float>(size)));
    };
    // One pixel wider on each side: float error must not cut a lit pixel off.
    PixelRect rect;
    rect.x0 = pixel(left * f / aspect, view.width, -1.0f);
    rect.x1 = pixel(right * f / aspect, view.width, 2.0f);
    rect.y0 = pixel(-top * f, view.height, -1.0f);
    rect.y1 = pixel(-bottom * f, view.height, 2.0f);
    return rect;
}

} // namespace mirolux
