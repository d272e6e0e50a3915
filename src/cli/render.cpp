#include "cli/commands.h"
#include "core/base/text.h"
#include "core/image/image_io.h"
#include "core/image/target_picture.h"
#include <cstdio>

namespace mirolux::cli {

/// The image with so many channels; those that it has not are 0, or the first one's in place of a single one's.
static FloatImage with_channels(const FloatImage& image, int channels) {
    FloatImage out{image.width, image.height, channels, {}};
    out.data.reserve(std::size_t(image.width) * image.height * static_cast<std::size_t>(channels));
    for (std::size_t i = 0; i < image.data.size(); i += static_cast<std::size_t>(image.channels))
        for (int c = 0; c < channels; ++c)
            out.data.push_back(image.channels == 1 ? image.data[i] : c < image.channels ? image.data[i + c] : 0.0f);
    return out;
}

static Result<void> write_floats(const std::filesystem::path& path, const FloatImage& image) {
    if (path.extension() == ".hdr") return write_hdr(path, with_channels(image, 3));
    return write_exr(path, image.channels == 2 ? with_channels(image, 3) : image);
}

static Result<void> write_layer(const std::filesystem::path& path, const FrameRecord& record,
                                const std::string& layer) {
    if (path.extension() == ".png") return write_png(path, record.picture);
    const auto it = record.floats.find(layer);
    if (it == record.floats.end()) return fail("no such layer came back", layer);
    // Radiance has no alpha worth keeping.
    return write_floats(path, it->second.channels == 4 ? with_channels(it->second, 3) : it->second);
}

/// A target with its plain values, or as a picture in their range.
static int render_target(const Common& c, const RenderArguments& a, const TargetRead& target, const Subject& s) {
    const std::filesystem::path path = a.output;
    if (a.output.empty()) return complain({"nothing to write", target.target, "Name a file with -o."}, badInput);
    RenderOptions o = still_options(c, s);
    o.picture = false;
    o.targets = {target};
    WorkerClient worker(worker_options(c));
    const auto record = worker.render(scene_of(s.open), s.setup, s.view, o);
    if (!record) return complain(record.error(), deviceFailed);
    const FloatImage& image = record->targets.front();
    const auto written = path.extension() == ".png"
                             ? write_png(path, picture_of(image, Channel::all, range_of(image, Channel::all), false))
                             : write_floats(path, image);
    if (!written) return complain(written.error(), badInput);
    if (c.json != "-") std::printf("%s\n", path.string().c_str());
    return done;
}

/// Id of the light of this name, or -1.
static int light_of(const Subject& s, const std::string& name) {
    for (const Light& l : s.open.project.lights)
        if (l.name == name) return l.id;
    return -1;
}

int render(const Common& given, const RenderArguments& a) {
    if (a.output.empty() && a.layersFolder.empty())
        return complain({"nothing to write", "", "Name a file with -o, or a folder with --layers."}, badInput);
    if (!find_layer(a.layer)) {
        std::string all;
        for (const LayerInfo& l : all_layers())
            all += (all.empty() ? "" : ", ") + l.name;
        return complain({"there is no layer of this name", a.layer, "It is one of: " + all + "."}, badInput);
    }
    const std::string type = std::filesystem::path(a.output).extension().string();
    if (!a.output.empty() && type != ".png" && type != ".exr" && type != ".hdr")
        return complain({"the picture's type is not known", a.output, "End the name in .png, .exr or .hdr."}, badInput);
    Common c = given;
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    if (!belongs(find_layer(a.layer)->stages, s->setup.stage)) {
        std::vector<std::string> own;
        for (const LayerInfo& l : all_layers())
            if (belongs(l.stages, s->setup.stage)) own.push_back(l.name);
        return complain({"the layer is of another stage", a.layer, "This scene has: " + joined(own) + "."}, badInput);
    }
    TargetRead frameTarget = a.target;
    for (const std::string& name : a.targets) { // of the frame, if it has one of the name; else of the project
        const auto& all = s->open.project.targets;
        const bool ofFrame = plan_frame(scene_of(s->open), s->setup, s->view).resource(name);
        const bool ofProject = std::any_of(all.begin(), all.end(), [&](const Target& t) { return t.name == name; });
        if (ofFrame) {
            frameTarget.target = name;
            continue;
        }
        if (!ofProject)
            return complain({"neither this frame nor the project has a target of this name", name,
                             "mirolux-cli plan lists the frame's targets, mirolux-cli targets the project's."},
                            badInput);
        c.target = name;
        s = subject_of(c);
        if (!s) return complain(s.error(), badInput);
    }
    if (!frameTarget.target.empty()) return render_target(c, a, frameTarget, *s);
    const int light = light_of(*s, a.light);
    if (!a.light.empty() && light < 0)
        return complain({"there is no light of this name", a.light, "mirolux-cli info lists them."}, badInput);
    if (find_layer(a.layer)->ofLight && light < 0)
        return complain({"the layer belongs to a light", a.layer, "Name one with --light."}, badInput);
    WorkerClient worker(worker_options(c));
    const Scene scene = scene_of(s->open);
    auto one = [&](const std::string& layer, const std::filesystem::path& path) -> int {
        RenderOptions o = still_options(c, *s);
        o.light = light;
        o.show = layer;
        o.bothEyes = s->view.stereo != Stereo::off; // the final picture: left eye, right eye
        o.picture = path.extension() == ".png";
        if (!o.picture) o.floatLayers = {layer};
        auto record = worker.render(scene, s->setup, s->view, o);
        if (!record) return complain(record.error(), deviceFailed);
        if (auto ok = write_layer(path, *record, layer); !ok) return complain(ok.error(), badInput);
        if (c.json != "-") std::printf("%s\n", path.string().c_str());
        return done;
    };
    if (!a.layersFolder.empty()) {
        std::error_code ec;
        std::filesystem::create_directories(a.layersFolder, ec);
        for (const LayerInfo& l : all_layers())
            if (!shows(l, s->setup, light >= 0))
                continue;
            else if (const int code = one(l.name, std::filesystem::path(a.layersFolder) / (l.name + ".png"));
                     code != done)
                return code;
    }
    return a.output.empty() ? int(done) : one(a.layer, a.output);
}

} // namespace mirolux::cli
