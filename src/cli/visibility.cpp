#include "cli/commands.h"
#include "core/base/text.h"
#include "core/motion/scene_at.h"
#include "core/visibility/rooms.h"
#include "core/visibility/visibility_audit.h"
#include <fmt/format.h>

namespace mirolux::cli {

namespace {

const Walk* walk_of(const Project& project, const std::string& name) {
    for (const Walk& w : project.walks)
        if (name.empty() || w.name == name) return &w;
    return nullptr;
}

} // namespace

/// What one kind has left out, in words and as JSON.
static Json findings(const VisibilityAudit& a, const std::string& kind, const Scene& scene,
                     const std::vector<View>& views, std::string& text) {
    const auto share = [](std::uint64_t part, std::uint64_t whole) {
        return whole ? 100.0 * static_cast<double>(part) / static_cast<double>(whole) : 0.0;
    };
    const double frames = static_cast<double>(std::max<std::uint64_t>(1, a.frames));
    text += fmt::format("{}: a picture draws {:.1f} objects; {:.1f} show, the frustum holds {:.1f} of {}\n"
                        "  missing {} ({:.4f} % of what shows), surplus {} ({:.1f} % of what is drawn)\n",
                        kind, static_cast<double>(a.drawn) / frames, static_cast<double>(a.seen) / frames,
                        static_cast<double>(a.inFrustum) / frames, scene.objects().size(), a.missing,
                        share(a.missing, a.seen), a.surplus, share(a.surplus, a.drawn));
    Json worst = Json::array();
    for (const MissingObject& m : a.worst) {
        const Camera& eye = views[m.view].camera;
        const std::string name = object_name(scene, m.object).id;
        worst.push_back({{"object", name},
                         {"pixels", m.pixels},
                         {"eye", to_array(eye.eye)},
                         {"aim", to_array(eye.aim)},
                         {"seconds", views[m.view].seconds}});
        if (worst.size() <= 8)
            text += fmt::format("    {}: {} pixels from {:.2f},{:.2f},{:.2f} towards {:.2f},{:.2f},{:.2f}\n", name,
                                m.pixels, eye.eye.x, eye.eye.y, eye.eye.z, eye.aim.x, eye.aim.y, eye.aim.z);
    }
    for (const std::string& note : a.notes)
        text += "  " + note + "\n";
    return {{"kind", kind},
            {"frames", a.frames},
            {"objects", scene.objects().size()},
            {"inFrustum", a.inFrustum},
            {"drawn", a.drawn},
            {"seen", a.seen},
            {"missing", a.missing},
            {"missingPixels", a.most_pixels()},
            {"surplus", a.surplus},
            {"worst", worst},
            {"notes", a.notes}};
}

int audit_visibility(const Common& c, const VisibilityArguments& a) {
    auto s = solid_subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    std::vector<View> views{s->view};
    if (a.along) {
        const Walk* walk = walk_of(s->open.project, a.walk);
        if (!walk)
            return complain({a.walk.empty() ? "the project has no walk" : "there is no walk named \"" + a.walk + "\"",
                             c.scene, "Record one in the window, or leave --along out."},
                            badInput);
        views = views_along(*walk, s->view, a.every, a.headings);
    }
    std::vector<Setup> setups(std::max<std::size_t>(1, a.kinds.size()), s->setup);
    for (std::size_t i = 0; i < a.kinds.size(); ++i)
        if (auto ok = setups[i].set_text("visibility.kind", a.kinds[i]); !ok) return complain(ok.error(), badInput);
    WorkerClient worker(worker_options(c));
    const bool lively = isatty(STDERR_FILENO);
    const Scene scene = scene_of(s->open);
    const auto audits = audit_visibility(
        worker, scene, setups, views, [&](std::size_t done, const std::vector<VisibilityAudit>& sofar) {
            if (lively)
                std::fprintf(stderr, "\rview %zu of %zu, %llu missing ", done, views.size(),
                             static_cast<unsigned long long>(sofar.front().missing));
            return true;
        });
    if (lively) std::fprintf(stderr, "\n");
    if (!audits) return complain(audits.error(), deviceFailed);
    std::string text = fmt::format("{} pictures of {}x{}\n", views.size(), s->view.width, s->view.height);
    Json list = Json::array();
    bool missing = false;
    for (std::size_t i = 0; i < setups.size(); ++i) {
        list.push_back(findings((*audits)[i], setups[i].choice("visibility.kind"), scene, views, text));
        missing = missing || (*audits)[i].missing > 0;
    }
    Json json = {{"schema", "mirolux.auditVisibility"}, {"version", 1}, {"size", {s->view.width, s->view.height}}};
    json.update(list.front());
    if (!a.kinds.empty()) json["audits"] = list;
    const int code = deliver(c, text, json);
    return code == done && missing ? gateMissed : code;
}

} // namespace mirolux::cli
