#include "cli/commands.h"
#include "core/ambient/occlusion_audit.h"
#include "core/ambient/reflection.h"
#include "core/base/text.h"
#include "core/cull/inspection.h"
#include "core/finish/render_scale.h"
#include "core/image/difference.h"
#include "core/path/path_kind.h"
#include "core/plan/frame_plan.h"
#include <fmt/format.h>

namespace mirolux::cli {

/// One layer's numbers, nothing timed.
static RenderOptions only_floats(const char* layer) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.floatLayers = {layer};
    return o;
}

int audit_lists(const Common& c) {
    auto s = solid_subject_of(c);
    if (!s) return complain(s.error(), badInput);
    const PathKind& path = path_kind(s->setup);
    if (!path.lists)
        return complain({"path.kind " + s->setup.choice("path.kind") + " makes no light lists", "audit lists",
                         "Add --set path.kind=tiled-deferred, tiled-forward, clustered-deferred or clustered-forward."},
                        badInput);
    WorkerClient worker(worker_options(c));
    const Scene scene = scene_of(s->open);
    RenderOptions o = only_floats("depth");
    o.lightLists = true;
    auto record = worker.render(scene, s->setup, s->view, o);
    if (!record) return complain(record.error(), deviceFailed);
    const DrawList list = build_draw_list(scene, s->setup, s->view);
    FloatImage& depth = record->floats.at("depth");
    const cull::Inspection inspection = cull::inspect(scene, s->setup, s->view, std::move(record->lightGrid),
                                                      {depth.width, depth.height, std::move(depth.data)});
    const cull::Audit& a = inspection.audit;
    const cull::LightGrid& exact = inspection.exact;
    const nlohmann::json json = {{"schema", "mirolux.auditLists"},
                                 {"version", 1},
                                 {"missed", a.missed},
                                 {"surplus", a.surplus},
                                 {"overflow", a.overflow},
                                 {"listed", a.listed},
                                 {"needed", a.needed},
                                 {"mean", a.mean},
                                 {"p95", a.p95},
                                 {"max", a.max},
                                 {"columns", exact.columns},
                                 {"rows", exact.rows},
                                 {"slices", exact.slices},
                                 {"tile", exact.tile},
                                 {"worstCell", a.worstCell},
                                 {"lightsInView", list.lights.size()},
                                 {"lightsOutside", list.lightsOutside},
                                 {"directional", list.directional}};
    const std::string text =
        fmt::format("{}, tile {}, {} x {} x {} cells; {} lights in view ({} directional, in no list), {} outside\n"
                    "missed   {}\nsurplus  {:.1f} %  ({} listed, {} needed)\noverflow {}\nlist length  mean {:.1f}  "
                    "p95 {}  max {}\n",
                    s->setup.choice("path.kind"), exact.tile, exact.columns, exact.rows, exact.slices,
                    list.lights.size(), list.directional, list.lightsOutside, a.missed, a.surplus * 100, a.listed,
                    a.needed, a.overflow, a.mean, a.p95, a.max);
    if (const int code = deliver(c, text, json); code != done) return code;
    return a.missed > 0 ? int(gateMissed) : int(done);
}

int audit_occlusion(const Common& c, int every, int samples) {
    auto s = solid_subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    s->setup = plainly_rendered(s->setup);
    if (!occludes_ambient(s->setup))
        return complain({"this setup has no occlusion on the screen", "occlusion.kind",
                         "Add --set occlusion.kind=horizon or hemisphere, with ambient.kind other than none."},
                        badInput);
    WorkerClient worker(worker_options(c));
    const Scene scene = scene_of(s->open);
    RenderOptions o = only_floats("screenOcclusion");
    o.floatLayers.emplace_back("depth");
    auto record = worker.render(scene, s->setup, s->view, o);
    if (!record) return complain(record.error(), deviceFailed);
    const OcclusionErrors e = mirolux::audit_occlusion(scene, s->setup, s->view, std::make_shared<RayScene>(scene),
                                                       record->floats.at("screenOcclusion"), record->floats.at("depth"),
                                                       every, static_cast<std::uint32_t>(samples));
    const nlohmann::json json = {{"schema", "mirolux.auditOcclusion"},
                                 {"version", 1},
                                 {"pixels", e.pixels},
                                 {"mean", e.mean},
                                 {"p95", e.p95},
                                 {"worst", e.worst},
                                 {"bias", e.bias},
                                 {"tracedOpen", e.traced},
                                 {"rays", samples}};
    return deliver(c,
                   fmt::format("{} pixels, {} rays each, within {} m: {:.3f} open on average\n"
                               "apart from that: mean {:.3f}  p95 {:.3f}  worst {:.3f}  bias {:+.3f}\n",
                               e.pixels, samples, s->setup.number("occlusion.radius"), e.traced, e.mean, e.p95, e.worst,
                               e.bias),
                   json);
}

int audit_reflections(const Common& c, int every) {
    auto s = solid_subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    s->setup = plainly_rendered(s->setup);
    if (!reflects_screen(s->setup))
        return complain({"this setup has no reflections on the screen", "reflection.kind",
                         "Add --set reflection.kind=screen and --set ambient.kind=environment."},
                        badInput);
    WorkerClient worker(worker_options(c));
    const Scene scene = scene_of(s->open);
    RenderOptions o = only_floats("normal");
    o.floatLayers.emplace_back("depth");
    o.targets = {{.target = reflection_hits_resource}};
    auto record = worker.render(scene, s->setup, s->view, o);
    if (!record) return complain(record.error(), deviceFailed);
    const ReflectionErrors e =
        mirolux::audit_reflections(s->setup, s->view, RayScene(scene), record->targets.front(),
                                   record->floats.at("depth"), record->floats.at("normal"), every);
    const nlohmann::json json = {{"schema", "mirolux.auditReflections"},
                                 {"version", 1},
                                 {"asked", e.asked},
                                 {"right", e.share(e.right)},
                                 {"wrong", e.share(e.wrong)},
                                 {"none", e.share(e.none)},
                                 {"shown", e.share(e.shown)},
                                 {"missed", e.share(e.missed)}};
    return deliver(c,
                   fmt::format("{} rays held against traced ones\nright {:.1f} %  wrong {:.1f} %  no answer {:.1f} %\n"
                               "what {:.1f} % meet is in the picture; {:.1f} % found none of it\n",
                               e.asked, 100 * e.share(e.right), 100 * e.share(e.wrong), 100 * e.share(e.none),
                               100 * e.share(e.shown), 100 * e.share(e.missed)),
                   json);
}

int audit_picture(const Common& c, const PictureArguments& a) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    auto other = other_setup(*s, c, a.against, a.againstSetup);
    if (!other) return complain(other.error(), badInput);
    WorkerClient worker(worker_options(c));
    const Scene scene = scene_of(s->open);
    const RenderOptions o = only_floats("final");
    auto first = worker.render(scene, s->setup, s->view, o);
    if (!first) return complain(first.error(), deviceFailed);
    auto second = worker.render(scene, *other, s->view, o);
    if (!second) return complain(second.error(), deviceFailed);
    const PictureDifference d =
        picture_difference(first->floats.at("final"), second->floats.at("final"), 1e-3, a.threshold);
    const nlohmann::json json = {{"schema", "mirolux.auditPicture"},
                                 {"version", 1},
                                 {"differences", differences(s->setup, *other)},
                                 {"largest", d.largest},
                                 {"mean", d.mean},
                                 {"meanRelative", d.meanRelative},
                                 {"worstRelative", d.worstRelative},
                                 {"worst", {d.worstX, d.worstY}},
                                 {"psnr", d.psnr},
                                 {"threshold", a.threshold},
                                 {"shareOver", d.shareOver}};
    std::string text = "B differs in: " + joined(differences(s->setup, *other), "; ") + "\n";
    const std::string line = fmt::format(
        "mean     {:.4g} cd/m2, {:.3f} % of A's mean\nlargest  {:.4g} cd/m2\nworst    {:.2f} % at pixel {}, "
        "{}\nPSNR     {:.1f} dB\nover {:.3g} %  {:.2f} % of the pixels\n",
        d.mean, d.meanRelative * 100, d.largest, d.worstRelative * 100, d.worstX, d.worstY, d.psnr, a.threshold * 100,
        d.shareOver * 100);
    if (const int code = deliver(c, text + line, json); code != done) return code;
    return a.gate >= 0 && d.meanRelative > a.gate ? int(gateMissed) : int(done);
}

} // namespace mirolux::cli
