#pragma once
#include "app/bench_rows.h"
#include "app/clip_strip.h"
#include "app/number_field.h"
#include <QElapsedTimer>
#include <QTimer>

class QCheckBox;
class QLabel;
class QPushButton;

namespace mirolux::app {

/// Clips of the scene's file: which play, how, and the scene's time. Nothing of a scene in which nothing moves.
class ClipRow : public QWidget {
    Q_OBJECT
public:
    explicit ClipRow(Document& document, QWidget* parent = nullptr);
    /// Lets the scene's time run, or stops it.
    void run_time(bool on);
    bool runs() const { return clock_.isActive(); }

private:
    void fill();
    void edit_clip(const QString& what, const std::function<void(ClipPlay&)>& change);
    NumberField* number(const QString& name, const NumberField::Range& range, const QString& unit, const QString& help,
                        double ClipPlay::*value, double usual);
    Document& document_;
    ClipStrip* strip_;
    QLabel *title_, *facts_;
    BenchRows* rows_;
    QPushButton* run_;
    QCheckBox* loop_;
    struct Number {
        NumberField* field;
        double ClipPlay::*value;
    };
    std::vector<Number> numbers_;
    QTimer clock_;
    QElapsedTimer since_;
    double from_ = 0; // the scene's time when it began to run
};

} // namespace mirolux::app
