#pragma once
#include <QList>

namespace mirolux::app {

/// A step of the work, as the bar shows it. `bench`: it has one of its own; else the bench is made of its settings.
struct Station {
    const char* name;
    const char* line; // what its settings do, one line
    bool bench = false;
};

/// The stations that have something to set, in the order of the work.
const QList<Station>& stations();

} // namespace mirolux::app
