#pragma once
#include <map>
#include <string>
#include <utility>
#include <vector>

namespace mirolux {

/// A thing that a frame is made of, as a device pays for it. A device profile gives each a rate in nanoseconds; a pass
/// is priced by how many of each it does.
struct CostTerm {
    std::string name;    // camelCase, as in a profile's JSON
    std::string meaning; // one line
    /// Settings whose frames exercise the term: calibration renders its abstract scenes with them as well, so that a
    /// term of one technique needs no change elsewhere. Empty: calibration's plain workloads and frames do already.
    std::vector<std::pair<std::string, std::string>> exercise;
    double madeUpNs = 0; // rate on the made-up desktop card, for terms that the made-up profiles do not name themselves
};

/// Every term of every technique, in frame order.
const std::vector<CostTerm>& all_terms();
/// The term of this name, or null.
const CostTerm* find_term(const std::string& name);

/// How many of each term. A term that is not there is 0.
struct CostTerms {
    std::map<std::string, double> amounts;

    double at(const std::string& name) const {
        const auto it = amounts.find(name);
        return it == amounts.end() ? 0.0 : it->second;
    }
    double& operator[](const std::string& name) { return amounts[name]; }
};

} // namespace mirolux
