#include "core/plan/camera_motion.h"
#include <cmath>

namespace mirolux {

namespace {

struct Axes {
    glm::vec3 right, up, forward;
};

Axes axes_of(const Camera& c) {
    const glm::mat4 v = view_matrix(c);
    return {{v[0][0], v[1][0], v[2][0]}, {v[0][1], v[1][1], v[2][1]}, {-v[0][2], -v[1][2], -v[2][2]}};
}

/// Direction turned by yaw about the vertical and by pitch, kept 2 degrees off the poles.
glm::vec3 turned(const glm::vec3& d, float yaw, float pitch) {
    const float length = glm::length(d);
    float a = std::atan2(d.x, -d.z), b = std::asin(std::clamp(d.y / length, -1.0f, 1.0f));
    a += yaw;
    b = std::clamp(b + pitch, -1.5359f, 1.5359f);
    return length * glm::vec3(std::cos(b) * std::sin(a), std::sin(b), -std::cos(b) * std::cos(a));
}

} // namespace

Ray ray_through(const View& view, double x, double y) {
    if (view.camera.span > 0) { // a Flat stage: straight down on it
        const float pixel = view.camera.span / static_cast<float>(view.height);
        return {view.camera.eye + glm::vec3((static_cast<float>(x) - 0.5f * static_cast<float>(view.width)) * pixel,
                                            (0.5f * static_cast<float>(view.height) - static_cast<float>(y)) * pixel,
                                            0),
                {0, 0, -1}};
    }
    const Axes a = axes_of(view.camera);
    const float t = std::tan(0.5f * view.camera.fovY), aspect = static_cast<float>(aspect_of(view));
    const float nx = static_cast<float>(2.0 * x / view.width - 1.0) * t * aspect,
                ny = static_cast<float>(1.0 - 2.0 * y / view.height) * t;
    return {view.camera.eye, glm::normalize(a.forward + a.right * nx + a.up * ny)};
}

std::optional<glm::vec2> project(const View& view, const glm::vec3& point) {
    const glm::vec4 c =
        projection_matrix(view.camera, aspect_of(view)) * view_matrix(view.camera) * glm::vec4(point, 1.0f);
    if (view.camera.span <= 0 && c.w <= view.camera.near) return std::nullopt;
    return glm::vec2((c.x / c.w * 0.5f + 0.5f) * static_cast<float>(view.width),
                     (0.5f - c.y / c.w * 0.5f) * static_cast<float>(view.height));
}

float metres_per_pixel(const View& view, const glm::vec3& point) {
    if (view.camera.span > 0) return view.camera.span / static_cast<float>(view.height);
    const float depth = glm::dot(point - view.camera.eye, axes_of(view.camera).forward);
    return 2.0f * std::max(depth, view.camera.near) * std::tan(0.5f * view.camera.fovY) /
           static_cast<float>(view.height);
}

std::optional<glm::vec3> on_plane(const Ray& ray, const glm::vec3& point, const glm::vec3& normal) {
    const float d = glm::dot(ray.direction, normal);
    if (std::abs(d) < 1e-5f) return std::nullopt;
    const float t = glm::dot(point - ray.origin, normal) / d;
    if (t <= 0 || t > 1e5f) return std::nullopt;
    return ray.origin + ray.direction * t;
}

std::optional<float> along_line(const Ray& ray, const glm::vec3& origin, const glm::vec3& direction) {
    const float b = glm::dot(ray.direction, direction), denominator = 1.0f - b * b;
    if (denominator < 1e-5f) return std::nullopt;
    const glm::vec3 w = origin - ray.origin;
    return (b * glm::dot(ray.direction, w) - glm::dot(direction, w)) / denominator;
}

Camera orbit(Camera c, float right, float up) {
    if (c.span > 0) return pan(c, -right * c.span * 0.3f, -up * c.span * 0.3f);
    c.eye = c.aim - turned(c.aim - c.eye, right, up);
    return c;
}

Camera look(Camera c, float right, float up) {
    if (c.span > 0) return orbit(c, right, up);
    c.aim = c.eye + turned(c.aim - c.eye, right, up);
    return c;
}

Camera pan(Camera c, float right, float up) {
    const Axes a = axes_of(c);
    const glm::vec3 move = a.right * right + a.up * up;
    c.eye += move;
    c.aim += move;
    return c;
}

Camera dolly(Camera c, float factor) {
    if (c.span > 0) {
        c.span = std::clamp(c.span * factor, 4.0f, 1e5f);
        c.eye.z = c.span;
        return c;
    }
    const glm::vec3 d = c.aim - c.eye;
    const float length = glm::length(d), wanted = length * factor;
    const glm::vec3 forward = d / length;
    c.eye += forward * (length - wanted);
    if (wanted < 0.5f) c.aim = c.eye + forward * 0.5f;
    return c;
}

Camera fly(Camera c, const glm::vec3& m) {
    if (c.span > 0) // forward comes closer; metres are shares of what is seen
        return dolly(pan(c, m.x * c.span * 0.1f, m.y * c.span * 0.1f), std::exp(-0.1f * m.z));
    const Axes a = axes_of(c);
    const glm::vec3 move = a.right * m.x + a.up * m.y + a.forward * m.z;
    c.eye += move;
    c.aim += move;
    return c;
}

Camera frame_sphere(Camera c, const glm::vec3& center, float radius) {
    if (c.span > 0) {
        c.span = std::max(2.6f * radius, 8.0f);
        c.eye = {center.x, center.y, c.span};
        c.aim = {center.x, center.y, 0};
        return c;
    }
    const glm::vec3 forward = glm::normalize(c.aim - c.eye);
    c.aim = center;
    c.eye = center - forward * (std::max(radius, 0.2f) / std::sin(0.45f * c.fovY));
    return c;
}

} // namespace mirolux
