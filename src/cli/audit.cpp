#include "cli/commands.h"
#include "core/base/text.h"
#include "core/cull/inspection.h"
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
    const cull::Inspection inspection =
        cull::inspect(scene, s->setup, s->view, std::move(record->lightGrid),
                      {s->view.width, s->view.height, std::move(record->floats.at("depth").data)});
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
