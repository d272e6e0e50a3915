#pragma once
#include "core/truth/path_tracer.h"
#include <QWidget>

class QLabel;
class QPushButton;

namespace mirolux::app {

class ChoiceRow;
class NumberField;

/// Over the picture while truth is shown: which of its layers, how far it has come, and a hand to stop it.
class TruthBar : public QWidget {
    Q_OBJECT
public:
    explicit TruthBar(QWidget* parent = nullptr);
    /// No layer: what the frame shows has no truth.
    void set_layer(std::optional<truth::Layer> layer);
    /// Of a flat stage there is one layer.
    void set_stage(Stage stage);
    /// share: of its samples, 0 to 1.
    void set_progress(const QString& words, double share);
    void set_stopped(bool on);
    double radius() const;
    /// The frame's own radius, which takes the place of the one that is asked for; none: there is none.
    void follow_radius(std::optional<double> metres);
    const QString& words() const { return words_; }

signals:
    void chosen(truth::Layer layer);
    void radius_changed(double metres);
    void stop_wanted(bool on);

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;

private:
    void show_words();
    ChoiceRow* layers_;
    NumberField* radius_;
    QLabel *label_, *radiusLabel_;
    QPushButton* stop_;
    QString words_;
    double share_ = 0;
    bool follows_ = false;
    bool stopped_ = false;
};

} // namespace mirolux::app
