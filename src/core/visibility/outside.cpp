#include "core/visibility/outside.h"
#include "core/motion/scene_at.h"
#include "core/visibility/visibility_audit.h"
#include <algorithm>

namespace mirolux {

namespace {

/// Surfaces told apart by the way they face, without a light.
Setup outside_setup() {
    Setup s = visibility_setup(Setup());
    for (const auto& [key, text] : {std::pair("ambient.kind", "gradient"),
                                    {"ambient.top", "1,1,1"},
                                    {"ambient.side", "0.45,0.5,0.58"},
                                    {"ambient.bottom", "0.2,0.2,0.2"},
                                    {"exposure.kind", "by-hand"},
                                    {"exposure.ev100", "0.6"},
                                    {"tone.curve", "clamp"}})
        (void)s.set_text(key, text);
    return s;
}

/// Asks the session what an eye's frame draws and what shows to it, and adds that up.
class Counting {
public:
    Counting(RenderSession& session, Scene scene, Setup setup)
        : session_(session), scene_(std::move(scene)), plain_(std::move(setup)), all_(plain_) {
        (void)all_.set_text("visibility.kind", "frustum");
        options_.picture = false;
        options_.fencedSamples = 0;
        options_.seen = true;
    }
    /// own: what it draws is what the answer tells of.
    Result<void> look(const View& eye, bool own, OutsideAnswer& out) {
        auto record = session_.render(scene_, plain_, eye, options_);
        if (!record) return tl::unexpected(record.error());
        const std::vector<bool> drawn = record->drawn;
        if (visibility_kind(plain_) != VisibilityKind::frustum) { // what is left out beforehand is not counted there
            record = session_.render(scene_, all_, eye, options_);
            if (!record) return tl::unexpected(record.error());
        }
        if (own) {
            out.drawn = drawn;
            out.seen.assign(drawn.size(), false);
            out.missing.assign(drawn.size(), false);
        }
        out.drawnCount = out.drawnUnseen = out.leftOutSeen = 0;
        for (std::size_t i = 0; i < out.seen.size() && i < drawn.size(); ++i) {
            const bool shows = record->seenPixels[i] > 0;
            out.seen[i] = out.seen[i] || shows;
            out.missing[i] = out.missing[i] || (shows && !drawn[i]);
            out.drawnCount += out.drawn[i];
            out.drawnUnseen += out.drawn[i] && !out.seen[i];
            out.leftOutSeen += out.missing[i];
        }
        return {};
    }
    const Setup& all() const { return all_; }

private:
    RenderSession& session_;
    Scene scene_;
    Setup plain_, all_;
    RenderOptions options_;
};

/// The eye itself, then 26 others: a lattice of 8 cm about it, turned with the view.
std::vector<glm::vec3> places_nearby(const Camera& c) {
    const glm::vec3 way = glm::normalize(c.aim - c.eye),
                    side = glm::normalize(glm::cross(way, glm::vec3(0, 1, 0) + 1e-3f * glm::vec3(way.z, 0, way.x))),
                    up = glm::cross(side, way);
    std::vector<glm::vec3> out{glm::vec3(0.0f)};
    for (int x = -1; x <= 1; ++x)
        for (int y = -1; y <= 1; ++y)
            for (int z = -1; z <= 1; ++z)
                if (x != 0 || y != 0 || z != 0)
                    out.push_back(0.08f * (static_cast<float>(x) * side + static_cast<float>(y) * up +
                                           static_cast<float>(z) * way));
    return out;
}

/// What the eye's frame draws, from outside.
Result<ByteImage> picture_from_outside(RenderSession& session, const Scene& scene, const OutsideQuestion& q,
                                       const std::vector<bool>& drawn) {
    std::vector<ObjectEdit> edits = scene.placed ? scene.placed->edits.list() : std::vector<ObjectEdit>(), hidden;
    for (std::size_t i = 0; i < drawn.size() && i < scene.asset->objects.size(); ++i)
        if (!drawn[i]) {
            hidden.push_back(edit_of(edits, *scene.asset, static_cast<int>(i)));
            hidden.back().hidden = true;
        }
    take_edits(edits, hidden);
    Scene shown = scene;
    shown.placed = place_objects(*scene.asset, std::move(edits));
    shown = scene_at(std::move(shown), q.inside.seconds);
    RenderOptions o;
    o.fencedSamples = 0;
    auto record = session.render(shown, outside_setup(), q.outside, o);
    if (!record) return tl::unexpected(record.error());
    return std::move(record->picture);
}

} // namespace

Result<OutsideAnswer> look_from_outside(RenderSession& session, const OutsideQuestion& q, const OutsideProgress& each) {
    const Scene scene = scene_at(without_lights(q.scene), q.inside.seconds);
    const Setup plain = visibility_setup(q.setup);
    Counting counting(session, scene, plain);
    OutsideAnswer out;
    View small = q.inside;
    if (constexpr int most = 480; small.width > most) {
        small.height = std::max(1, most * small.height / small.width);
        small.width = most;
    }
    if (auto ok = counting.look(small, true, out); !ok) return tl::unexpected(ok.error());
    const DrawList list = build_draw_list(q.scene, plain, q.inside),
                   frustum = build_draw_list(scene, counting.all(), q.inside);
    out.note = list.visibilityNote;
    out.lightsBehind = list.lightsBehind;
    out.inFrustum = static_cast<int>(frustum.opaque.size() + frustum.blended.size());
    if (visibility_kind(plain) == VisibilityKind::cells && out.note.empty()) {
        const auto edge = static_cast<float>(plain.number("visibility.cell"));
        const CellPlace p = cell_place(q.inside.camera.eye, edge);
        out.cell = Box{edge * glm::vec3(p.x, p.y, p.z), edge * glm::vec3(p.x + 1, p.y + 1, p.z + 1)};
    }
    if (visibility_kind(plain) == VisibilityKind::portals)
        if (const auto rooms = rooms_of(q.scene, plain)) out.sight = look_through_doors(*rooms, q.scene, q.inside);
    auto picture = picture_from_outside(session, scene, q, out.drawn);
    if (!picture) return tl::unexpected(picture.error());
    out.picture = std::move(*picture);
    const std::vector<glm::vec3> places = places_nearby(q.inside.camera);
    out.allEyes = static_cast<int>(places.size());
    for (const glm::vec3& off : places) {
        if (each && !each(out)) return out;
        View eye = q.inside;
        eye.camera.eye += off;
        eye.camera.aim += off;
        if (auto ok = counting.look(eye, out.eyes == 0, out); !ok) return tl::unexpected(ok.error());
        ++out.eyes;
    }
    return out;
}

Camera outside_camera(const glm::vec3& over, float distance, float turn, float pitch, float section) {
    Camera c;
    c.name = "outside";
    const glm::vec3 back(std::sin(turn) * std::cos(pitch), std::sin(pitch), std::cos(turn) * std::cos(pitch));
    c.eye = over + distance * back;
    c.aim = over;
    c.fovY = 0.7f;
    // Where the line of sight meets the section.
    c.near = std::max(0.1f, std::sin(pitch) > 0.05f ? distance - (section - over.y) / std::sin(pitch) : 0.1f);
    return c;
}

} // namespace mirolux
