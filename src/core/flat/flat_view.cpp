#include "core/flat/flat_view.h"

namespace mirolux::flat {

Camera camera_at(const glm::vec2& center, float span, std::string name) {
    Camera c;
    c.name = std::move(name);
    c.eye = {center, span};
    c.aim = {center, 0};
    c.span = span;
    return c;
}

glm::dvec2 Window::at(const glm::dvec2& p) const {
    return {low.x + (high.x - low.x) * p.x / width, high.y - (high.y - low.y) * p.y / height};
}

glm::dvec2 Window::pixel(const glm::dvec2& p) const {
    return {(p.x - low.x) / (high.x - low.x) * width, (high.y - p.y) / (high.y - low.y) * height};
}

bool Window::touches(const glm::dvec2& otherLow, const glm::dvec2& otherHigh) const {
    return otherHigh.x > low.x && otherLow.x < high.x && otherHigh.y > low.y && otherLow.y < high.y;
}

Window window_of(const View& view) {
    const double span = view.camera.span > 0 ? view.camera.span : 1.0;
    const glm::dvec2 half(0.5 * span * aspect_of(view), 0.5 * span), middle(view.camera.eye);
    return {middle - half, middle + half, view.width, view.height};
}

View stage_view(const Setup& setup, const View& view) {
    const int scale = std::stoi(setup.choice("flat.pixelScale"));
    View out = view;
    out.width = (view.width + scale - 1) / scale;
    out.height = (view.height + scale - 1) / scale;
    return out;
}

glm::ivec2 stage_pixel(const View& view, const View& stage, const glm::ivec2& p) {
    // Rows are counted from the bottom, as the device's are.
    const auto at = [](int pixel, int from, int to) { return static_cast<int>((pixel + 0.5) * to / from); };
    return {at(p.x, view.width, stage.width), stage.height - 1 - at(view.height - 1 - p.y, view.height, stage.height)};
}

glm::dvec2 half_size(const World& world, const Sprite& sprite) {
    const Sheet& s = world.sheets[static_cast<std::size_t>(sprite.sheet)];
    return {0.5 * s.cellWidth, 0.5 * s.cellHeight};
}

glm::dvec2 shift_of(const Layer& layer, const Camera& camera) {
    return glm::dvec2(camera.eye) * (1.0 - layer.parallax);
}

namespace {

/// Where a cell lies in its sheet.
void place_cell(Quad& q, const Sheet& s, int cell) {
    const glm::vec2 size(static_cast<float>(s.columns * s.cellWidth), static_cast<float>(s.rows * s.cellHeight));
    q.uvSize = glm::vec2(s.cellWidth, s.cellHeight) / size;
    q.uvLow = glm::vec2(cell % s.columns, cell / s.columns) * q.uvSize;
}

class Gatherer {
public:
    Gatherer(const World& world, const View& view) : world_(world), view_(view), window_(window_of(view)) {}

    Quads gather() {
        std::vector<std::vector<const Sprite*>> sprites(world_.layers.size());
        for (const Sprite& s : world_.sprites)
            if (!s.hidden) sprites[static_cast<std::size_t>(s.layer)].push_back(&s);
        for (std::size_t l = 0; l < world_.layers.size(); ++l) {
            for (const Tiles& t : world_.tiles)
                if (t.layer == static_cast<int>(l)) add(t);
            for (const Sprite* s : sprites[l])
                add(*s);
        }
        return std::move(out_);
    }

private:
    Quad start(int layer, int sheet) const {
        const Layer& l = world_.layers[static_cast<std::size_t>(layer)];
        const Sheet& s = world_.sheets[static_cast<std::size_t>(sheet)];
        Quad q;
        q.tint = l.tint;
        q.layer = static_cast<std::uint32_t>(layer);
        q.flags = (l.lit ? 1u : 0u) | (s.normals >= 0 ? 2u : 0u) | (s.emission >= 0 ? 4u : 0u) | 8u;
        q.glow.y = s.normalScale;
        return q;
    }

    void put(const Quad& q, int sheet) {
        const glm::vec2 extent = glm::abs(q.right) + glm::abs(q.up);
        if (!window_.touches(q.middle - extent, q.middle + extent)) return;
        if (out_.runs.empty() || out_.runs.back().sheet != sheet)
            out_.runs.push_back({sheet, static_cast<std::uint32_t>(out_.quads.size()), 0});
        ++out_.runs.back().count;
        out_.quads.push_back(q);
    }

    void add(const Tiles& t) {
        const Sheet& s = world_.sheets[static_cast<std::size_t>(t.sheet)];
        const Quad base = start(t.layer, t.sheet);
        const glm::vec2 shift(shift_of(world_.layers[static_cast<std::size_t>(t.layer)], view_.camera));
        for (int row = 0; row < t.rows; ++row)
            for (int column = 0; column < t.columns; ++column) {
                const int cell = t.cells[static_cast<std::size_t>(row * t.columns + column)];
                if (cell < 0) continue;
                Quad q = base;
                q.right = {0.5f * static_cast<float>(s.cellWidth), 0};
                q.up = {0, 0.5f * static_cast<float>(s.cellHeight)};
                q.middle = t.place + shift +
                           glm::vec2((static_cast<float>(column) + 0.5f) * static_cast<float>(s.cellWidth),
                                     (static_cast<float>(t.rows - 1 - row) + 0.5f) * static_cast<float>(s.cellHeight));
                place_cell(q, s, cell);
                put(q, t.sheet);
            }
    }

    void add(const Sprite& sprite) {
        const Sheet& s = world_.sheets[static_cast<std::size_t>(sprite.sheet)];
        const Layer& layer = world_.layers[static_cast<std::size_t>(sprite.layer)];
        Quad q = start(sprite.layer, sprite.sheet);
        const glm::dvec2 half = half_size(world_, sprite), at(sprite.place);
        q.middle = sprite.place + glm::vec2(shift_of(layer, view_.camera));
        q.right = placed(sprite, {half.x, 0}) - at;
        q.up = placed(sprite, {0, half.y}) - at;
        q.tint *= sprite.tint;
        q.glow.x = sprite.glow;
        q.sprite = static_cast<std::uint32_t>(sprite.id) + 1;
        if (!sprite.receives) q.flags &= ~8u;
        const double step = std::floor(view_.seconds * sprite.rate);
        const int frame =
            sprite.cells > 1 ? static_cast<int>(step - sprite.cells * std::floor(step / sprite.cells)) : 0;
        place_cell(q, s, sprite.cell + frame);
        put(q, sprite.sheet);
    }

    const World& world_;
    const View& view_;
    const Window window_;
    Quads out_;
};

} // namespace

Quads quads_of(const World& world, const View& view) {
    return Gatherer(world, view).gather();
}

} // namespace mirolux::flat
