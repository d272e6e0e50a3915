#pragma once
#include "core/cost/frame_record.h"
#include "core/cost/statistics.h"
#include "core/io/json_cursor.h"

namespace mirolux {

/// One timed piece of known work: what calibration fits rates to.
struct Workload {
    std::string name; // "fill RGBA16F 1024", "tiled-forward/culling"
    double ms = 0;    // median of its repetitions
    CostTerms terms;
};

/// A stand-in for a device: what it pays for each term.
struct DeviceProfile {
    std::string name;                 // "handheld"
    std::string device;               // as the driver names it; of a made-up one, what it stands for
    std::string created;              // ISO 8601, UTC; empty for made-up ones
    bool madeUp = false;              // round numbers that no device was measured for
    std::map<std::string, double> ns; // nanoseconds for one of each term; of terms that this build has not, too
    double typicalError = 0; // median of |fitted - measured| / measured over the workloads; of made-up ones, declared
    double largeError = 0;   // their 90th percentile
    std::vector<Workload> workloads; // what it was fitted to

    double fitted_ms(const CostTerms& terms) const;
    /// Terms of `terms` for which the profile has no rate: it was made before they were.
    std::vector<std::string> unknown(const CostTerms& terms) const;
};

/// Fits rates to workloads: non-negative least squares of relative errors, so that small and large workloads count
/// alike.
DeviceProfile fit_profile(std::vector<Workload> workloads, const std::string& name, const std::string& device);

Json to_json(const Workload& workload);
Workload workload_from_json(const JsonCursor& json);

struct PassPrediction {
    std::string name, family;
    double ms = 0;
};
/// What a frame would cost on a profile's device. Never a measurement: low and high are the profile's own large error
/// either way.
struct Prediction {
    std::vector<PassPrediction> passes;
    double frameMs = 0, lowMs = 0, highMs = 0;
    std::string profile;
    bool madeUp = false;
};
/// `counted`: a record of the frame with counted work (RenderOptions::count), on any device: counters do not depend on
/// it. Error: the frame does something that the profile has no rate for; nothing is priced at 0.
Result<Prediction> predict(const DeviceProfile& profile, const FramePlan& plan, const FrameRecord& counted);

Json to_json(const DeviceProfile& profile);
DeviceProfile profile_from_json(const JsonCursor& json);
Json to_json(const Prediction& prediction);

/// The made-up profiles that come with the program: handheld, headset, desktop.
const std::vector<DeviceProfile>& shipped_profiles();
/// A shipped profile by its name, or a file. Errors: neither, or a file that is no profile, with the JSON pointer.
Result<DeviceProfile> find_profile(const std::string& nameOrPath);

} // namespace mirolux
