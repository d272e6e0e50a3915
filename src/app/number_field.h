#pragma once
#include <QLineEdit>
#include <QWidget>
#include <optional>

namespace mirolux::app {

/// A number with its unit over a hairline gauge of its range (logarithmic where the number is), with a notch at the
/// default. Drag the value for small steps or the gauge for its whole range; wheel, arrow keys, or type (double click
/// or Enter). A changed value shows a dot; a click on it puts the default back.
class NumberField : public QWidget {
    Q_OBJECT
public:
    struct Range {
        double low = 0, high = 1;
        double step = 0.01; // a pixel's worth; for logarithmic fields a ratio
        int decimals = 2;
        bool logarithmic = false;
    };
    NumberField(const Range& range, const QString& unit, QWidget* parent = nullptr);
    void set_value(double value); // no signal
    double value() const { return value_; }
    const Range& range() const { return range_; }
    /// As if it were typed: within the range, with its signal.
    void put(double value) { change(value); }
    void set_default(std::optional<double> value);
    bool changed() const { return default_ && std::abs(*default_ - value_) > 1e-9 * std::max(1.0, std::abs(value_)); }
    /// Text shown in place of a value (range 0: "unbounded").
    void set_word_for(double value, const QString& word);
    QString text() const; // what is shown
    /// Where a value stands on the gauge, 0 to 1, and back.
    double share_of(double value) const;
    double value_at(double share) const;
    QRectF gauge() const; // empty: the range means nothing (a place in the world)
    QRectF dot() const;
    QSize sizeHint() const override { return {90, 26}; }
    QSize minimumSizeHint() const override { return {44, 26}; }

signals:
    void edited(double value); // each change
    void scrubbing(bool on);   // a drag begins or ends
    void hovered(bool on);
    void considered(double value); // the pointer is where a press would set this

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void enterEvent(QEnterEvent*) override;
    void leaveEvent(QEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    double smallest() const { return range_.low > 0 ? range_.low : range_.high * 1e-4; } // over 0, of a ratio
    void change(double value);
    void step(double steps);
    void type();
    void take_typed();
    Range range_;
    QString unit_, wordFor_;
    std::optional<double> default_;
    double value_ = 0, wordValue_ = -1e300, pressValue_ = 0;
    int pressX_ = 0;
    bool down_ = false, moved_ = false, onGauge_ = false, under_ = false;
    QLineEdit* line_ = nullptr;
};

} // namespace mirolux::app
