#pragma once
#include "core/cost/logbook.h"

namespace mirolux {

/// One measurement (and its comparison, if there is one) as a document: everything that scripts rely on.
nlohmann::json measurement_document(const Measurement& a, const PairedMeasurement* paired, const DeviceInfo& device,
                                    const Setup& setup, const std::string& sceneDigest,
                                    const std::vector<std::string>& differences);
/// One row a pass, then the frame: name, family, median, low, high, draws, triangles, fragments, light evaluations.
std::string measurement_csv(const Measurement& measurement);
/// A self-contained page: tape to scale against the budget as SVG, table, environment, settings that differ from the
/// defaults.
std::string measurement_html(const std::string& title, const Measurement& a, const PairedMeasurement* paired,
                             const DeviceInfo& device, const Target& target, const Setup& setup,
                             const std::vector<std::string>& differences);
/// "B is 23.1 % faster (19.4 to 27.0; 12 rounds)", or what could have been shown.
std::string comparison_words(const Comparison& comparison);
/// The same for a terminal.
std::string measurement_text(const Measurement& a, const PairedMeasurement* paired, double budgetMs);

} // namespace mirolux
