#include "core/scene/place_handles.h"
#include <cmath>

namespace mirolux {

static constexpr float armPixels = 64.0f, sizePixels = 86.0f;

const char* word(PlaceHandle kind) {
    switch (kind) {
    case PlaceHandle::ground:
        return "move on the ground plane";
    case PlaceHandle::axisX:
        return "move along x";
    case PlaceHandle::axisY:
        return "move up and down";
    case PlaceHandle::axisZ:
        return "move along z";
    case PlaceHandle::turnX:
        return "turn about x";
    case PlaceHandle::turnY:
        return "turn about the vertical";
    case PlaceHandle::turnZ:
        return "turn about z";
    case PlaceHandle::size:
        return "size";
    case PlaceHandle::sizeX:
        return "size along its x";
    case PlaceHandle::sizeY:
        return "size along its y";
    case PlaceHandle::sizeZ:
        return "size along its z";
    }
    return "";
}

PlaceFrame frame_of(const Box& box, const ObjectEdit& edit) {
    const glm::mat4 m = matrix_of(edit);
    PlaceFrame f;
    f.single = true;
    f.pivot = glm::vec3(m * glm::vec4(box.center(), 1.0f));
    f.foot = glm::vec3(m * glm::vec4(box.center().x, box.low.y, box.center().z, 1.0f));
    for (int k = 0; k < 3; ++k)
        f.axes[k] = glm::vec3(m[k]) * 0.5f * box.size()[k];
    return f;
}

static glm::vec3 unit_axis(int k) {
    glm::vec3 axis(0.0f);
    axis[k] = 1.0f;
    return axis;
}

/// Right and up of the picture.
static std::pair<glm::vec3, glm::vec3> across(const View& view) {
    const glm::mat4 v = view_matrix(view.camera);
    return {{v[0][0], v[1][0], v[2][0]}, {v[0][1], v[1][1], v[2][1]}};
}

std::vector<PlacedHandle> handles_of(const PlaceFrame& frame, const View& view) {
    const float pixel = metres_per_pixel(view, frame.pivot), arm = armPixels * pixel;
    const glm::vec3 p = frame.pivot;
    std::vector<PlacedHandle> out = {{PlaceHandle::ground, p}};
    for (int k = 0; k < 3; ++k)
        out.push_back({static_cast<PlaceHandle>(int(PlaceHandle::axisX) + k), p + unit_axis(k) * arm});
    for (int k = 0; k < 3; ++k) // half way along the quarter between the other two arms
        out.push_back({static_cast<PlaceHandle>(int(PlaceHandle::turnX) + k),
                       p + glm::normalize(unit_axis((k + 1) % 3) + unit_axis((k + 2) % 3)) * arm});
    const auto [right, up] = across(view);
    out.push_back({PlaceHandle::size, p - glm::normalize(right + up) * (sizePixels * pixel)});
    if (frame.single)
        for (int k = 0; k < 3; ++k)
            if (glm::length(frame.axes[k]) > 12 * pixel) // too thin to take hold of
                out.push_back({static_cast<PlaceHandle>(int(PlaceHandle::sizeX) + k), p + frame.axes[k]});
    return out;
}

PlaceDrag dragged(const PlaceFrame& start, PlaceHandle kind, const View& view, const Ray& from, const Ray& to,
                  const Snap& snap) {
    PlaceDrag out;
    Placement& p = out.placement;
    p.pivot = start.pivot;
    const glm::vec3 facing = glm::normalize(view.camera.eye - start.pivot);
    const auto stepped = [](float value, float by) { return by > 0.0f ? std::round(value / by) * by : value; };
    const float tenth = snap.tenths ? 0.1f : 0.0f;
    /// A move along some of the axes, on to the grid.
    const auto on_grid = [&](glm::vec3 move, const glm::vec3& along) {
        for (int k = 0; k < 3; ++k)
            if (along[k] != 0) move[k] = stepped(start.foot[k] + move[k], snap.grid) - start.foot[k];
        return move;
    };
    switch (kind) {
    case PlaceHandle::ground: {
        const auto a = on_plane(from, start.pivot, {0, 1, 0}), b = on_plane(to, start.pivot, {0, 1, 0});
        if (a && b) p.move = on_grid(*b - *a, {1, 0, 1});
        break;
    }
    case PlaceHandle::axisX:
    case PlaceHandle::axisY:
    case PlaceHandle::axisZ: {
        const glm::vec3 axis = unit_axis(int(kind) - int(PlaceHandle::axisX));
        const auto a = along_line(from, start.pivot, axis), b = along_line(to, start.pivot, axis);
        if (a && b) p.move = on_grid(axis * (*b - *a), axis);
        break;
    }
    case PlaceHandle::turnX:
    case PlaceHandle::turnY:
    case PlaceHandle::turnZ: {
        const glm::vec3 axis = unit_axis(int(kind) - int(PlaceHandle::turnX));
        const auto a = on_plane(from, start.pivot, axis), b = on_plane(to, start.pivot, axis);
        if (!a || !b) break;
        const glm::vec3 u = *a - start.pivot, v = *b - start.pivot;
        if (glm::length(u) < 1e-6f || glm::length(v) < 1e-6f) break;
        p.turn =
            glm::angleAxis(stepped(std::atan2(glm::dot(glm::cross(u, v), axis), glm::dot(u, v)), snap.angle), axis);
        break;
    }
    case PlaceHandle::size: {
        const auto a = on_plane(from, start.pivot, facing), b = on_plane(to, start.pivot, facing);
        if (!a || !b || glm::length(*a - start.pivot) < 1e-6f) break;
        p.size =
            std::clamp(stepped(glm::length(*b - start.pivot) / glm::length(*a - start.pivot), tenth), 0.01f, 100.0f);
        break;
    }
    case PlaceHandle::sizeX:
    case PlaceHandle::sizeY:
    case PlaceHandle::sizeZ: {
        const int k = int(kind) - int(PlaceHandle::sizeX);
        const float half = glm::length(start.axes[k]);
        if (half < 1e-6f) break;
        const glm::vec3 axis = start.axes[k] / half;
        const auto a = along_line(from, start.pivot, axis), b = along_line(to, start.pivot, axis);
        if (!a || !b) break;
        p.pivot = start.pivot - start.axes[k];                        // the opposite side stays
        const float side = stepped(2.0f * half + *b - *a, snap.grid); // no thinner than the grid is fine
        out.factors[k] = std::clamp(stepped(std::max(side, snap.grid) / (2.0f * half), tenth), 0.01f, 100.0f);
        break;
    }
    }
    return out;
}

ObjectEdit placed_by(const ObjectEdit& start, const PlaceDrag& drag) {
    if (drag.factors != glm::vec3(1.0f)) return sized_by(start, drag.factors, drag.placement.pivot);
    return placed_by(start, drag.placement);
}

Light placed_by(const Light& start, const PlaceDrag& drag) {
    Light light = start;
    const Placement& p = drag.placement;
    light.position = p.pivot + p.turn * (p.size * (start.position - p.pivot)) + p.move;
    if (p.turn == glm::quat(1, 0, 0, 0) && p.size == 1.0f) light.position = start.position + p.move;
    light.direction = glm::normalize(p.turn * start.direction);
    return light;
}

} // namespace mirolux
