#include "core/technique/all.h"
#include <cassert>

namespace mirolux {

const std::vector<const Technique*>& all_techniques() {
    static const std::vector<const Technique*> all = {
#define MIROLUX_TECHNIQUE(name) &technique::name(),
#define MIROLUX_VALUES(name) &technique::name(),
#include "core/technique/all.def"
#undef MIROLUX_TECHNIQUE
#undef MIROLUX_VALUES
    };
    return all;
}

namespace {

/// One list of what each technique has of its own.
template <class T>
std::vector<T> gathered(std::vector<T> Technique::*part) {
    std::vector<T> out;
    for (const Technique* t : all_techniques())
        out.insert(out.end(), (t->*part).begin(), (t->*part).end());
    return out;
}

template <class T>
const T* named(const std::vector<T>& list, const std::string& name) {
    for (const T& item : list)
        if (item.name == name) return &item;
    return nullptr;
}

} // namespace

const std::vector<Counter>& all_counters() {
    static const std::vector<Counter> all = gathered(&Technique::counters);
    return all;
}

const std::vector<CostTerm>& all_terms() {
    static const std::vector<CostTerm> all = gathered(&Technique::terms);
    return all;
}

const std::vector<LayerInfo>& all_layers() {
    static const std::vector<LayerInfo> all = [] {
        std::vector<LayerInfo> out;
        for (const Technique* t : all_techniques())
            for (LayerInfo l : t->layers) {
                l.stages = t->stages;
                out.push_back(std::move(l));
            }
        return out;
    }();
    return all;
}

const std::vector<std::string>& all_parameters() {
    static const std::vector<std::string> all = gathered(&Technique::parameters);
    return all;
}

const CostTerm* find_term(const std::string& name) {
    return named(all_terms(), name);
}
const LayerInfo* find_layer(const std::string& name) {
    return named(all_layers(), name);
}

const std::vector<PassFamily>& pass_families() {
    static const std::vector<PassFamily> families = {
        {"shadows", 0x5C6BB5},     {"depth", 0x7F8A99},  {"opaque", 0x3A84BA},   {"lights", 0xCE962C},
        {"culling", 0xB05484},     {"sky", 0x8A6FB0},    {"ambient", 0x93A044},  {"air", 0x6FA8A0},
        {"transparent", 0x40A08C}, {"finish", 0xBE6246}, {"injected", 0x808080},
    };
    return families;
}

unsigned family_color_of(const std::string& name) {
    for (const PassFamily& f : pass_families())
        if (f.name == name) return f.color;
    return 0x808080;
}

const FormatInfo& info_of(Format format) {
    static const FormatInfo table[] = {
        {Format::rgba8, "RGBA8", 4},
        {Format::r8, "R8", 1},
        {Format::rg8, "RG8", 2},
        {Format::rg16, "RG16", 4},
        {Format::r32f, "R32F", 4},
        {Format::rg32f, "RG32F", 8},
        {Format::rgba16f, "RGBA16F", 8},
        {Format::rgba32f, "RGBA32F", 16},
        {Format::rgb16f, "RGB16F", 6},
        {Format::rgb9e5, "RGB9E5", 4},
        {Format::bc6h, "BC6H", 1},
        {Format::depth32f, "DEPTH32F", 4},
        {Format::depth32fStencil8, "DEPTH32F STENCIL8", 8},
        {Format::words, "uint32", 4},
    };
    const FormatInfo& info = table[static_cast<std::size_t>(format)];
    assert(info.format == format);
    return info;
}

} // namespace mirolux
