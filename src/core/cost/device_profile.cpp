#include "core/cost/device_profile.h"
#include "core/base/text.h"
#include "core/cost/nnls.h"
#include "core/io/file.h"
#include "core/io/json_cursor.h"

namespace mirolux {

Result<std::vector<Workload>> RenderSession::calibrate(int) {
    return fail("this way of rendering cannot calibrate");
}

double DeviceProfile::fitted_ms(const CostTerms& terms) const {
    double sum = 0;
    for (const auto& [term, amount] : terms.amounts)
        if (const auto rate = ns.find(term); rate != ns.end()) sum += rate->second * amount;
    return sum * 1e-6;
}

std::vector<std::string> DeviceProfile::unknown(const CostTerms& terms) const {
    std::vector<std::string> out;
    for (const auto& [term, amount] : terms.amounts)
        if (amount != 0 && !ns.contains(term)) out.push_back(term);
    return out;
}

DeviceProfile fit_profile(std::vector<Workload> workloads, const std::string& name, const std::string& device) {
    DeviceProfile p;
    p.name = name;
    p.device = device;
    std::vector<std::vector<double>> rows;
    std::vector<double> ones;
    for (const Workload& w : workloads) {
        if (!(w.ms > 0)) continue;
        std::vector<double> row;
        for (const CostTerm& t : all_terms())
            row.push_back(w.terms.at(t.name) / w.ms);
        rows.push_back(std::move(row));
        ones.push_back(1.0);
    }
    const std::vector<double> ms = non_negative_least_squares(rows, ones);
    for (std::size_t t = 0; t < ms.size(); ++t)
        p.ns[all_terms()[t].name] = ms[t] * 1e6;
    std::vector<double> errors;
    for (const Workload& w : workloads)
        if (w.ms > 0) errors.push_back(std::abs(p.fitted_ms(w.terms) - w.ms) / w.ms);
    p.typicalError = median(errors);
    p.largeError = quantile(errors, 0.9);
    p.workloads = std::move(workloads);
    return p;
}

Result<Prediction> predict(const DeviceProfile& profile, const FramePlan& plan, const FrameRecord& counted) {
    Prediction out;
    out.profile = profile.name;
    out.madeUp = profile.madeUp;
    std::vector<std::string> unknown;
    for (std::size_t i = 0; i < plan.passes.size() && i < counted.passes.size(); ++i) {
        const PlannedPass& pass = plan.passes[i];
        const CostTerms terms = price_pass(plan, pass, counted.passes[i].work);
        for (const std::string& term : profile.unknown(terms))
            if (std::find(unknown.begin(), unknown.end(), term) == unknown.end()) unknown.push_back(term);
        out.passes.push_back({pass.name, pass.family, profile.fitted_ms(terms)});
        out.frameMs += out.passes.back().ms;
    }
    if (!unknown.empty())
        return fail("the profile has no rate for " + joined(unknown) + ", which this frame pays", profile.name,
                    "It was made before Mirolux knew of it: calibrate again, or switch off what needs it.");
    out.lowMs = out.frameMs / (1 + profile.largeError);
    out.highMs = out.frameMs * (1 + profile.largeError);
    return out;
}

static Json amounts_json(const std::map<std::string, double>& amounts) {
    Json out = Json::object();
    for (const auto& [term, amount] : amounts)
        out[term] = amount;
    return out;
}

static std::map<std::string, double> amounts_from(const JsonCursor& j) {
    std::map<std::string, double> out;
    if (!j.json().is_object()) j.complain("must be an object of terms");
    for (const auto& [key, value] : j.json().items()) {
        const double amount = j[key.c_str()].number();
        if (!(amount >= 0)) j[key.c_str()].complain("must not be negative");
        out[key] = amount;
    }
    return out;
}

/// Rates of a profile: at least one of them must be a term of this build, or the file is something else.
static std::map<std::string, double> rates_from(const JsonCursor& j) {
    auto rates = amounts_from(j);
    for (const auto& [term, ns] : rates)
        if (find_term(term)) return rates;
    j.complain("has no term that is known here");
}

Json to_json(const Workload& w) {
    return {{"name", w.name}, {"ms", w.ms}, {"terms", amounts_json(w.terms.amounts)}};
}
Workload workload_from_json(const JsonCursor& j) {
    return {j["name"].text(), j["ms"].number(), CostTerms{amounts_from(j["terms"])}};
}

Json to_json(const DeviceProfile& p) {
    Json workloads = Json::array();
    for (const Workload& w : p.workloads) {
        const double fitted = p.fitted_ms(w.terms);
        Json one = to_json(w);
        one["fittedMs"] = fitted;
        one["residual"] = w.ms > 0 ? (fitted - w.ms) / w.ms : 0;
        workloads.push_back(one);
    }
    return {{"schema", "mirolux.profile"},
            {"version", 1},
            {"name", p.name},
            {"device", p.device},
            {"created", p.created},
            {"madeUp", p.madeUp},
            {"nanoseconds", amounts_json(p.ns)},
            {"typicalError", p.typicalError},
            {"largeError", p.largeError},
            {"workloads", workloads}};
}

DeviceProfile profile_from_json(const JsonCursor& j) {
    if (j.text("schema", "") != "mirolux.profile") j.complain("is not a device profile");
    DeviceProfile p;
    p.name = j["name"].text();
    p.device = j.text("device", "");
    p.created = j.text("created", "");
    p.madeUp = j.flag("madeUp", false);
    p.ns = rates_from(j["nanoseconds"]);
    p.typicalError = j.number("typicalError", 0, 0, 100);
    p.largeError = j.number("largeError", 0, 0, 100);
    const JsonCursor list = j.list("workloads");
    for (std::size_t i = 0; i < list.size(); ++i)
        p.workloads.push_back(workload_from_json(list.at(i)));
    return p;
}

Json to_json(const Prediction& p) {
    Json passes = Json::array();
    for (const PassPrediction& pass : p.passes)
        passes.push_back({{"name", pass.name}, {"family", pass.family}, {"predictedMs", pass.ms}});
    return {{"profile", p.profile}, {"madeUp", p.madeUp}, {"predictedMs", p.frameMs},
            {"lowMs", p.lowMs},     {"highMs", p.highMs}, {"passes", passes}};
}

/// Round numbers for three kinds of device that do not exist; docs/profiles.md says how they were chosen.
const std::vector<DeviceProfile>& shipped_profiles() {
    static const std::vector<DeviceProfile> profiles = [] {
        // Nanoseconds on the desktop card; the others are this many times slower, and write slower still.
        const auto made_up = [](const char* name, const char* standsFor, double compute, double memory) {
            DeviceProfile p;
            p.name = name;
            p.device = standsFor;
            p.madeUp = true;
            p.typicalError = 0.25; // as little as a stand-in may claim
            p.largeError = 0.5;
            const auto set = [&](double ns, std::initializer_list<const char*> terms) {
                for (const char* t : terms)
                    p.ns[t] = ns;
            };
            set(5000 * std::sqrt(compute), {"run"});
            set(500 * std::sqrt(compute), {"draw"});
            set(0.1 * compute, {"vertex", "triangle"});
            set(0.01 * compute, {"fragment", "fetch", "cullSample", "atomic", "listRead"});
            set(0.001 * compute, {"hidden"});
            set(0.02 * compute, {"slice", "filteredRead", "idleLight", "sideTest", "cellTest", "entry"});
            set(0.0005 * compute, {"operation"});
            set(0.05 * compute, {"surface", "lambert", "sky"});
            set(0.1 * compute, {"decode", "finish", "phong", "blinnPhong"});
            set(0.2 * compute, {"ggx"});
            set(5 * compute, {"group", "cell"});
            set(0.002 * memory, {"writeUnorm", "writeHalf", "writeFloat", "writeDepth"});
            set(0.004 * memory, {"blendHalf", "blendFloat", "copy"});
            set(0.001 * memory, {"clear"});
            for (const CostTerm& term : all_terms())
                p.ns.try_emplace(term.name, term.madeUpNs * compute);
            return p;
        };
        return std::vector<DeviceProfile>{made_up("handheld", "a handheld of a few watts (made up)", 20, 10),
                                          made_up("headset", "an untethered headset (made up)", 10, 10),
                                          made_up("desktop", "a desktop card of the middle class (made up)", 1, 1)};
    }();
    return profiles;
}

Result<DeviceProfile> find_profile(const std::string& nameOrPath) {
    std::vector<std::string> names;
    for (const DeviceProfile& p : shipped_profiles()) {
        if (p.name == nameOrPath) return p;
        names.push_back(p.name);
    }
    auto bytes = read_file(nameOrPath);
    if (!bytes)
        return fail("there is no device profile of this name, and no such file", nameOrPath,
                    "Shipped profiles: " + joined(names) + ". mirolux-cli calibrate makes one of this device.");
    try {
        const Json j = Json::parse(bytes->begin(), bytes->end());
        return profile_from_json(JsonCursor(j));
    } catch (const ReadFailure& f) {
        return fail("the profile " + f.what, nameOrPath + "#" + f.pointer, f.remedy);
    } catch (const Json::exception& e) {
        return fail(std::string("the profile is not JSON: ") + e.what(), nameOrPath,
                    "mirolux-cli calibrate writes one.");
    }
}

} // namespace mirolux
