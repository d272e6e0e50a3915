#include "cli/commands.h"
#include "core/image/image_io.h"
#include <cstdio>

namespace mirolux::cli {

static Result<void> write_picture(const std::filesystem::path& path, FrameRecord& record, const std::string& layer) {
    const std::string type = path.extension().string();
    if (type == ".png") return write_png(path, record.picture);
    const auto it = record.floats.find(layer);
    if (it == record.floats.end()) return fail("no such layer came back", layer);
    FloatImage image = it->second;
    if (image.channels == 4) { // radiance has no alpha worth keeping
        FloatImage rgb{image.width, image.height, 3, {}};
        for (std::size_t i = 0; i < image.data.size(); i += 4)
            rgb.data.insert(rgb.data.end(), {image.data[i], image.data[i + 1], image.data[i + 2]});
        image = std::move(rgb);
    }
    if (type == ".exr") return write_exr(path, image);
    if (image.channels == 1) {
        FloatImage rgb{image.width, image.height, 3, {}};
        for (const float v : image.data)
            rgb.data.insert(rgb.data.end(), {v, v, v});
        image = std::move(rgb);
    }
    return write_hdr(path, image);
}

/// Id of the light of this name, or -1.
static int light_of(const Subject& s, const std::string& name) {
    for (const Light& l : s.open.project.lights)
        if (l.name == name) return l.id;
    return -1;
}

int render(const Common& c, const RenderArguments& a) {
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
    if (!a.target.empty() && type == ".png")
        return complain({"a target is written with its plain values", a.output, "End the name in .exr or .hdr."},
                        badInput);
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
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
        if (!a.target.empty() && layer == a.layer) {
            o.picture = false;
            o.targets = {a.target};
        } else if (!o.picture)
            o.floatLayers = {layer};
        auto record = worker.render(scene, s->setup, s->view, o);
        if (!record) return complain(record.error(), deviceFailed);
        if (!o.targets.empty()) record->floats[layer] = std::move(record->targets.at(a.target));
        if (auto ok = write_picture(path, *record, layer); !ok) return complain(ok.error(), badInput);
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
