#pragma once
#include "app/document.h"
#include <QWidget>
#include <array>
#include <optional>

namespace mirolux::app {

/// One light: lux at normal incidence over distance, and a spot's cone in section. Its knobs are pulled: the range
/// along the axis of distance, the intensity up and down, the cone's edges round its tip. Arrow keys: left and right
/// change the range, up and down the intensity.
class LightFigure : public QWidget {
    Q_OBJECT
public:
    LightFigure(Document& document, QWidget* parent = nullptr);
    void set_light(int id);
    enum class Knob { none, range, intensity, inner, outer };
    /// Where a knob lies; null where the light has none.
    std::optional<QPointF> knob(Knob which) const;
    /// What the pointer is at: a distance and the lux there.
    QString words_at(const QPointF& point) const;
    QSize sizeHint() const override { return {280, 168}; }
    QSize minimumSizeHint() const override { return {200, 168}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    /// What the axes stand for.
    struct Axes {
        QRectF plot;
        double near, far, bottom, top; // metres, lux; both logarithmic
        double x(double metres) const;
        double y(double lux) const;
        double metres(double x) const;
        double lux(double y) const;
    };
    const Light* light() const;
    double reach(const Light& l) const;
    std::optional<Axes> axes() const;
    QRectF section() const; // of the cone
    QPointF edge(double angle) const;
    Knob near_knob(const QPointF& at) const;
    void pull(const QPointF& at);
    void change(const QString& label, const std::function<void(Light&)>& put, bool drag);
    void paint_grid(QPainter& p, const Axes& a) const;
    void paint_curves(QPainter& p, const Axes& a, const Light& l) const;
    void paint_section(QPainter& p, const Light& l) const;
    void paint_knobs(QPainter& p) const;

    Document& document_;
    int id_ = -1;
    Knob pulled_ = Knob::none, under_ = Knob::none;
    std::optional<QPointF> pointer_;
    std::optional<Axes> held_; // while a knob is pulled the axes stand still
};

/// Several lights: what they give together on the ground along the line through them, each light's share in its own
/// colour under the sum; without a selection, of all lights along the ground ahead of the camera.
class LightsFigure : public QWidget {
    Q_OBJECT
public:
    LightsFigure(Document& document, QWidget* parent = nullptr);
    void set_lights(const std::vector<int>& ids); // none: all
    QString words_at(const QPointF& point) const;
    QRectF plot() const;
    QSize sizeHint() const override { return {280, 132}; }
    QSize minimumSizeHint() const override { return {200, 132}; }

protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent*) override { make(); }
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

private:
    static constexpr int samples = 161;
    struct Share {
        int light;
        std::array<float, samples> lux;
    };
    void make();
    std::pair<glm::dvec3, glm::dvec3> line() const;
    double y(double lux) const;

    Document& document_;
    std::vector<int> ids_;
    std::vector<Share> shares_; // strongest first
    std::array<float, samples> sum_{};
    double length_ = 0, most_ = 1;
    std::optional<double> at_; // share of the line that is looked at
};

} // namespace mirolux::app
