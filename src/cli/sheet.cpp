#include "cli/commands.h"
#include "core/finish/layer_sheet.h"
#include "core/image/image_io.h"
#include <fmt/format.h>

// sheet: the frame broken into its layers.
namespace mirolux::cli {

int sheet(const Common& c, const SheetArguments& a) {
    const std::filesystem::path path = a.output;
    if (path.extension() != ".png" && path.extension() != ".exr")
        return complain({"the sheet's type is not known", a.output, "End the name in .png or .exr."}, badInput);
    auto s = solid_subject_of(c);
    if (!s) return complain(s.error(), badInput);
    WorkerClient worker(worker_options(c));
    const int width = a.width, height = std::max(1, a.width * s->view.height / s->view.width);
    auto made = layer_sheet(worker, scene_of(s->open), s->setup, s->view, width, height, a.grey);
    if (!made) return complain(made.error(), deviceFailed);
    const auto written =
        path.extension() == ".png" ? write_png(path, sheet_picture(*made, a.columns)) : write_sheet(path, *made);
    if (!written) return complain(written.error(), badInput);
    nlohmann::json layers = nlohmann::json::array();
    std::string text;
    for (const auto* cells : {&made->parts, &made->others})
        for (const SheetCell& cell : *cells) {
            layers.push_back({{"name", cell.name}, {"label", cell.label}, {"role", cell.role}});
            text += fmt::format("{:18} {:14} {}\n", cell.name, cell.label, cell.role);
        }
    text += fmt::format("{:.3g} % of the light before bloom is in none of the layers that add up, rest apart; at the "
                        "worst pixel {:.3g} %\n{}\n",
                        100 * made->rest, 100 * made->worst, path.string());
    return deliver(c, text,
                   {{"schema", "mirolux.sheet"},
                    {"version", 1},
                    {"file", path.string()},
                    {"rest", made->rest},
                    {"worst", made->worst},
                    {"layers", layers}});
}

} // namespace mirolux::cli
