#pragma once
#include "app/number_field.h"
#include "core/light/light.h"
#include "core/plan/settings.h"
#include <span>

namespace mirolux::app {

/// One number of a light: how it is shown, put and when it means anything. Numbers of one label share a row.
struct LightNumber {
    const char *label, *name, *unit;
    NumberField::Range range;
    const char* help;
    double (*get)(const Light&);
    void (*put)(Light&, double);
    bool (*when)(const Light&);
    const char* zero;                      // shown in place of 0, or of the range's low end where that lies below 0
    bool (*under)(const Setup&) = nullptr; // true of setups under which the number means anything; null: of all
};

/// Every number of a light beside its intensity, in the bench's order; the last three are its place.
std::span<const LightNumber> light_numbers();

} // namespace mirolux::app
