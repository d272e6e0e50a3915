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

} // namespace

Result<OutsideAnswer> look_from_outside(RenderSession& session, const OutsideQuestion& q) {
    const Scene scene = scene_at(without_lights(q.scene), q.inside.seconds);
    const Setup plain = visibility_setup(q.setup);
    OutsideAnswer out;
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.seen = true;
    Setup all = plain;
    (void)all.set_text("visibility.kind", "frustum");
    const glm::vec3 way = glm::normalize(q.inside.camera.aim - q.inside.camera.eye),
                    side = glm::normalize(glm::cross(way, glm::vec3(0, 1, 0) + 1e-3f * glm::vec3(way.z, 0, way.x)));
    for (const glm::vec3& off :
         {glm::vec3(0.0f), 0.08f * side, -0.08f * side, 0.08f * glm::vec3(0, 1, 0), -0.08f * way}) {
        const bool own = off == glm::vec3(0.0f);
        View eye = q.inside;
        eye.camera.eye += off;
        eye.camera.aim += off;
        auto record = session.render(scene, own ? plain : all, eye, o);
        if (!record) return tl::unexpected(record.error());
        out.seen.resize(record->seenPixels.size(), false);
        if (own) out.drawn = record->drawn;
        if (own &&
            visibility_kind(plain) != VisibilityKind::frustum) { // what is left out beforehand is not counted there
            auto whole = session.render(scene, all, eye, o);
            if (!whole) return tl::unexpected(whole.error());
            record = std::move(whole);
        }
        for (std::size_t i = 0; i < out.seen.size(); ++i)
            out.seen[i] = out.seen[i] || record->seenPixels[i] > 0;
    }
    const DrawList list = build_draw_list(q.scene, plain, q.inside), frustum = build_draw_list(scene, all, q.inside);
    out.note = list.visibilityNote;
    out.lightsBehind = list.lightsBehind;
    out.inFrustum = static_cast<int>(frustum.opaque.size() + frustum.blended.size());
    for (std::size_t i = 0; i < out.drawn.size(); ++i) {
        out.drawnCount += out.drawn[i];
        out.drawnUnseen += out.drawn[i] && !out.seen[i];
        out.leftOutSeen += !out.drawn[i] && out.seen[i];
    }
    if (visibility_kind(plain) == VisibilityKind::cells && out.note.empty()) {
        const auto edge = static_cast<float>(plain.number("visibility.cell"));
        const CellPlace p = cell_place(q.inside.camera.eye, edge);
        out.cell = Box{edge * glm::vec3(p.x, p.y, p.z), edge * glm::vec3(p.x + 1, p.y + 1, p.z + 1)};
    }
    if (visibility_kind(plain) == VisibilityKind::portals)
        if (const auto rooms = rooms_of(q.scene, plain)) out.sight = look_through_doors(*rooms, q.scene, q.inside);
    std::vector<ObjectEdit> edits = scene.placed ? scene.placed->edits.list() : std::vector<ObjectEdit>(), hidden;
    for (std::size_t i = 0; i < out.drawn.size() && i < scene.asset->objects.size(); ++i)
        if (!out.drawn[i]) {
            hidden.push_back(edit_of(edits, *scene.asset, static_cast<int>(i)));
            hidden.back().hidden = true;
        }
    take_edits(edits, hidden);
    Scene shown = scene;
    shown.placed = place_objects(*scene.asset, edits);
    shown = scene_at(std::move(shown), q.inside.seconds);
    o = {};
    o.fencedSamples = 0;
    auto record = session.render(shown, outside_setup(), q.outside, o);
    if (!record) return tl::unexpected(record.error());
    out.picture = std::move(record->picture);
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
