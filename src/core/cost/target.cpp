#include "core/cost/target.h"
#include "core/base/text.h"
#include "core/io/wire.h"
#include <algorithm>
#include <fmt/format.h>

namespace mirolux {

std::string to_text(const Target& t) {
    std::string text =
        t.name + (t.stereo == Stereo::off ? ", " : ", 2 x ") + std::to_string(t.width) + "x" + std::to_string(t.height);
    if (t.hz > 0) text += ", " + number_text(t.hz) + " Hz";
    return text + (t.lightingShare < 1 ? fmt::format(", {:.2f} of {:.2f} ms", budget_ms(t), t.frameMs)
                                       : fmt::format(", {:.2f} ms", t.frameMs));
}

Target plain_target(const std::string& name, int width, int height, double frameMs) {
    Target t;
    t.name = name;
    t.width = width;
    t.height = height;
    t.frameMs = frameMs;
    t.hz = 0;
    return t;
}

View on_target(View view, const Target& t) {
    view.width = t.width;
    view.height = t.height;
    view.stereo = t.stereo;
    view.eyeDistance = t.eyeDistance;
    return view;
}

std::vector<Target> standard_targets() {
    Target desk, handheld, headset;
    desk.name = "Desk";
    handheld.name = "Handheld";
    handheld.width = 854, handheld.height = 480;
    handheld.hz = 30, handheld.frameMs = 1000.0 / 30;
    handheld.lightingShare = 0.7;
    handheld.profile = "handheld";
    headset.name = "Headset";
    headset.width = 1024, headset.height = 1024;
    headset.hz = 72, headset.frameMs = 1000.0 / 72;
    headset.lightingShare = 0.8;
    headset.stereo = Stereo::onePass;
    headset.profile = "headset";
    Target software = plain_target("Software", 640, 360, 120);
    software.software = true;
    return {desk, handheld, headset, software};
}

Json to_json(const Target& t) {
    Json out = {{"name", t.name}, {"width", t.width}, {"height", t.height}};
    if (t.hz > 0)
        out["hz"] = t.hz;
    else
        out["budgetMs"] = t.frameMs;
    if (t.lightingShare != 1) out["lightingShare"] = t.lightingShare;
    if (t.stereo != Stereo::off) {
        out["stereo"] = word(t.stereo);
        out["eyeDistance"] = t.eyeDistance;
    }
    if (!t.profile.empty()) out["profile"] = t.profile;
    if (t.software) out["software"] = true;
    if (t.setup) out["setup"] = to_json(*t.setup);
    for (const int id : t.offLights)
        out["off"].push_back({{"light", id}});
    for (const std::string& id : t.offObjects)
        out["off"].push_back({{"object", id}});
    return out;
}

Target target_from_json(const JsonCursor& j) {
    Target t;
    t.name = j["name"].text();
    t.width = static_cast<int>(j["width"].whole(16384));
    t.height = static_cast<int>(j["height"].whole(16384));
    if (t.width < 1 || t.height < 1) j.complain("picture size must be at least 1x1");
    t.hz = j.number("hz", 0.0, 0.0, 1000.0);
    if (t.hz > 0)
        t.frameMs = 1000.0 / t.hz;
    else
        t.frameMs = j["budgetMs"].number();
    if (!(t.frameMs > 0)) j.complain("needs hz or budgetMs over 0");
    t.lightingShare = j.number("lightingShare", 1.0, 0.001, 1.0);
    const auto stereo = stereo_of(j.text("stereo", "off"));
    if (!stereo) j["stereo"].complain("must be off, two-passes or one-pass");
    t.stereo = *stereo;
    t.eyeDistance = static_cast<float>(j.number("eyeDistance", t.eyeDistance, 0.0, 1.0));
    t.profile = j.text("profile", "");
    t.software = j.flag("software", false);
    if (j.has("setup")) t.setup = setup_from_json(j["setup"]);
    const JsonCursor off = j.list("off");
    for (std::size_t i = 0; i < off.size(); ++i) {
        const JsonCursor one = off.at(i);
        if (one.has("light"))
            t.offLights.push_back(static_cast<int>(one["light"].whole(0x7FFFFFFF)));
        else
            t.offObjects.push_back(one["object"].text());
    }
    std::sort(t.offLights.begin(), t.offLights.end());
    std::sort(t.offObjects.begin(), t.offObjects.end());
    return t;
}

} // namespace mirolux
