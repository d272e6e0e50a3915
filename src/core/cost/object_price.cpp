#include "core/cost/object_price.h"
#include "core/scene/object_edit.h"

namespace mirolux {

Scene without_objects(Scene scene, const std::vector<int>& objects) {
    std::vector<ObjectEdit> edits = scene.placed ? scene.placed->edits.list() : std::vector<ObjectEdit>{}, hidden;
    for (const int o : objects) {
        hidden.push_back(edit_of(edits, *scene.asset, o));
        hidden.back().hidden = true;
    }
    take_edits(edits, hidden);
    scene.placed = place_objects(*scene.asset, edits); // a session poses it for its time
    return scene;
}

Result<PictureDifference> difference_of(RenderSession& session, const Scene& scene, const Scene& other,
                                        const Setup& setup, const View& view) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.floatLayers = {"final"};
    FloatImage pictures[2];
    for (int k = 0; k < 2; ++k) {
        auto r = session.render(k == 0 ? scene : other, setup, view, o);
        if (!r) return tl::unexpected(r.error());
        pictures[k] = std::move(r->floats.at("final"));
    }
    return picture_difference(pictures[0], pictures[1], 1e-3, 0.01);
}

Result<ObjectPrice> price_objects(RenderSession& session, const Scene& scene, const std::vector<int>& objects,
                                  const Setup& setup, const View& view, int rounds,
                                  const std::function<bool(double)>& go_on) {
    ObjectPrice out;
    out.objects = static_cast<int>(objects.size());
    const Scene without = without_objects(scene, objects);
    auto picture = difference_of(session, scene, without, setup, view);
    if (!picture) return tl::unexpected(picture.error());
    out.picture = *picture;
    MeasureOptions o;
    o.rounds = rounds;
    o.progress = [&](const MeasureProgress& p) { return !go_on || go_on(double(p.round) / std::max(1, p.rounds)); };
    auto times = measure_paired(session, scene, setup, without, setup, view, o);
    if (!times) return tl::unexpected(times.error());
    out.times = std::move(*times);
    return out;
}

} // namespace mirolux
