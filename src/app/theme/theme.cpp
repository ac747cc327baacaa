// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/theme/theme.h"

#include "app/theme/singular.h"

#include <QApplication>
#include <QHash>
#include <QPaintEngine>
#include <QPainterPath>
#include <QPalette>
#include <QPixmapCache>
#include <QSettings>

#include <algorithm>
#include <array>
#include <cmath>

/// Outside of all namespaces, as Qt wants it.
static void makeMarksKnown()
{
    Q_INIT_RESOURCE(marks);
}

namespace stone::theme
{

namespace
{

constexpr auto styleSheet = R"(
QWidget { color: %ink%; }
QMainWindow, QDialog, QMenuBar, QMenu, QToolTip { background: %panel%; }
QMenuBar { font-size: 9pt; }
QMenuBar::item { padding: 3px 9px; background: transparent; }
QMenuBar::item:selected, QMenu::item:selected { background: %shade%; color: %ink%; }
QMenu { border: 1px solid %line%; padding: 4px; }
QMenu::item { padding: 4px 24px 4px 14px; }
QMenu::item:disabled { color: %faint%; }
QMenu::separator { height: 1px; background: %line%; margin: 4px 8px; }
QToolTip { border: 1px solid %line%; padding: 4px; }
QLineEdit, QDoubleSpinBox, QSpinBox, QComboBox {
  background: %field%; border: 1px solid %line%; border-radius: 4px; padding: 2px 6px; min-height: 19px;
  selection-background-color: %verdigris%; selection-color: %field%; }
QLineEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus, QComboBox:focus, QPushButton:focus, QToolButton:focus, QListView:focus,
QCheckBox:focus, QSlider:focus { border: 1px solid %verdigris%; }
QLineEdit:disabled, QDoubleSpinBox:disabled, QComboBox:disabled { color: %faint%; background: %panel%; }
QDoubleSpinBox::up-button, QDoubleSpinBox::down-button, QSpinBox::up-button, QSpinBox::down-button { width: 0; }
QComboBox { padding-right: 16px; }
QComboBox::drop-down { width: 17px; border: 0; }
QComboBox::down-arrow { image: url(:/marks/chooser.xpm); width: 9px; height: 5px; }
QComboBox QAbstractItemView { background: %field%; border: 1px solid %line%; selection-background-color: %shade%; selection-color: %ink%; }
QPushButton, QToolButton { background: %field%; border: 1px solid %line%; border-radius: 4px; padding: 3px 10px; }
QPushButton:hover, QToolButton:hover { border-color: %soft%; }
QPushButton:disabled, QToolButton:disabled { color: %faint%; }
QToolButton:checked { background: %ink%; color: %field%; border-color: %ink%; }
QPushButton[link="true"] { border: 1px solid transparent; background: transparent; color: %verdigris%; padding: 1px 3px; font-weight: bold; }
QPushButton[link="true"]:hover { text-decoration: underline; }
QPushButton[link="true"]:disabled { color: %faint%; }
QPushButton#listen { background: %verdigris%; color: %field%; border: 0; border-radius: 13px; padding: 5px 16px; font-weight: bold; }
QPushButton#listen:checked { background: %cinnabar%; }
QPushButton#listen:focus { border: 2px solid %ink%; padding: 3px 14px; }
QCheckBox { border: 1px solid transparent; padding: 1px; }
QCheckBox::indicator, QRadioButton::indicator { width: 11px; height: 11px; border: 1px solid %soft%; border-radius: 2px; background: %field%; }
QRadioButton::indicator { border-radius: 6px; }
QCheckBox::indicator:checked, QRadioButton::indicator:checked { background: %verdigris%; border-color: %verdigris%; }
QCheckBox::indicator:disabled { border-color: %line%; }
QTreeView { background: %field%; border: 1px solid %line%; border-radius: 4px; }
QTreeView::indicator { width: 11px; height: 11px; border: 1px solid %soft%; border-radius: 2px; background: %field%; }
QTreeView::indicator:checked { background: %verdigris%; border-color: %verdigris%; }
QHeaderView::section { background: %panel%; border: 0; border-bottom: 1px solid %line%; padding: 2px 4px; }
QListView { background: transparent; border: 1px solid transparent; outline: 0; }
QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: 0; }
QScrollBar:vertical { width: 8px; background: transparent; }
QScrollBar::handle:vertical { background: %line%; border-radius: 4px; min-height: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
QTabBar::tab { padding: 5px 1px; margin-right: 13px; border: 0; border-bottom: 2px solid transparent; color: %soft%; background: transparent; }
QTabBar::tab:selected { color: %ink%; border-bottom: 2px solid %verdigris%; font-weight: bold; }
QTabBar::tab:focus { color: %verdigris%; }
QSlider { border: 1px solid transparent; border-radius: 4px; }
QSlider::groove:horizontal { height: 3px; background: %line%; }
QSlider::handle:horizontal { width: 9px; margin: -5px 0; background: %ink%; border-radius: 4px; }
QSlider::sub-page:horizontal { background: %verdigris%; }
QSlider::groove:vertical { width: 3px; background: %line%; }
QSlider::handle:vertical { height: 9px; margin: 0 -5px; background: %ink%; border-radius: 4px; }
QSlider::handle:disabled, QSlider::sub-page:disabled { background: %line%; }
)";

const QString lookKey = QStringLiteral("look");

bool darkLook = false;
bool plainLook = false;

/// Every colour, by day, by night, and the two plain ones.
void setColours(Look look)
{
    const struct {
        QColor& colour;
        const char* looks[4];
    } colours[] = {
        {paper, {"#FBF8EF", "#1B1A18", "#FFFFFF", "#000000"}},     {panel, {"#FAF8F2", "#211F1C", "#FFFFFF", "#000000"}},
        {field, {"#FFFFFF", "#15140F", "#FFFFFF", "#000000"}},     {shade, {"#F1E9D9", "#38322A", "#FFE48A", "#4A3C00"}},
        {ink, {"#262420", "#EEE8DA", "#000000", "#FFFFFF"}},       {soft, {"#6B665C", "#B9B1A0", "#1A1A1A", "#F0F0F0"}},
        {faint, {"#A39C8D", "#968D7C", "#595959", "#B4B4B4"}},     {line, {"#DDD6C6", "#413B33", "#6E6E6E", "#9A9A9A"}},
        {grid, {"#EDE6D4", "#292622", "#D0D0D0", "#3A3A3A"}},      {edge, {"#CFC6B2", "#575043", "#808080", "#808080"}},
        {floor, {"#EFE6D2", "#3A352D", "#EEEEEE", "#262626"}},     {glass, {"#CFE0DC", "#3C5650", "#B8D8D2", "#2E4A45"}},
        {notice, {"#FBEFD0", "#40361C", "#FFE48A", "#4A3C00"}},    {ochre, {"#B3761B", "#DDA04B", "#7A4A00", "#FFC25E"}},
        {verdigris, {"#2B7D6D", "#63BBA8", "#00594B", "#6FE3CB"}}, {lapis, {"#345590", "#8CABE8", "#123A8A", "#9CC0FF"}},
        {mallow, {"#74497F", "#C79AD3", "#5B1F6B", "#EDA9FF"}},    {malachite, {"#5B7A2A", "#A8C96A", "#35540A", "#C4F06A"}},
        {umber, {"#7B5B45", "#CBA386", "#5A3820", "#FFC9A3"}},     {cinnabar, {"#AE3A2C", "#F0806F", "#A00000", "#FF8A78"}},
        {sulphur, {"#E2B33C", "#E8C158", "#7A5C00", "#FFDD55"}}};
    for (const auto& each : colours) {
        each.colour = QColor(each.looks[static_cast<std::size_t>(look)]);
    }
    darkLook = look == Look::night || look == Look::plainNight;
    plainLook = look == Look::plain || look == Look::plainNight;
}

} // namespace

Look lookOf(const QPalette& desktop)
{
    // Relative luminance and contrast as the Web Content Accessibility Guidelines 2 reckon them.
    const auto luminance = [](const QColor& colour) {
        const auto linear = [](double part) { return part <= 0.04045 ? part / 12.92 : std::pow((part + 0.055) / 1.055, 2.4); };
        return 0.2126 * linear(colour.redF()) + 0.7152 * linear(colour.greenF()) + 0.0722 * linear(colour.blueF());
    };
    const double ground = luminance(desktop.color(QPalette::Window));
    const double text = luminance(desktop.color(QPalette::WindowText));
    const double contrast = (std::max(ground, text) + 0.05) / (std::min(ground, text) + 0.05);
    constexpr double nothingBetween = 20.0;
    if (contrast >= nothingBetween) {
        return ground < text ? Look::plainNight : Look::plain;
    }
    return ground < text ? Look::night : Look::day;
}

std::optional<Look> chosenLook()
{
    const int kept = QSettings().value(lookKey, -1).toInt();
    return kept >= 0 && kept <= static_cast<int>(Look::plainNight) ? std::optional(static_cast<Look>(kept)) : std::nullopt;
}

void chooseLook(std::optional<Look> look)
{
    if (look) {
        QSettings().setValue(lookKey, static_cast<int>(*look));
    } else {
        QSettings().remove(lookKey);
    }
}

QString over()
{
    return QString("rgba(%1,%2,%3,225)").arg(field.red()).arg(field.green()).arg(field.blue());
}

QColor seeThrough(QColor colour, double through)
{
    colour.setAlphaF(static_cast<float>(1.0 - through));
    return colour;
}

QColor floorTint(std::size_t material)
{
    static const std::array<QColor, 6> byDay{QColor("#F6F0E2"), QColor("#F1EADB"), QColor("#EEF0E6"),
                                             QColor("#EDEBE4"), QColor("#F4ECDD"), QColor("#EAEEEC")};
    static const std::array<QColor, 6> byNight{QColor("#25221E"), QColor("#2A2621"), QColor("#242721"),
                                               QColor("#292825"), QColor("#2B251F"), QColor("#232827")};
    if (plainLook) {
        return paper;
    }
    const auto& tints = darkLook ? byNight : byDay;
    return tints[material % tints.size()];
}

QColor sunkenTint()
{
    return plainLook ? paper : darkLook ? QColor("#14120F") : QColor("#E9E3D4");
}

void apply(QApplication& app)
{
    const QString name = QStringLiteral("singular");
    if (app.findChild<QTranslator*>(name) == nullptr) {
        auto* singular = new Singular(&app);
        singular->setObjectName(name);
        QCoreApplication::installTranslator(singular);
    }
    apply(app, chosenLook().value_or(lookOf(QGuiApplication::palette())));
}

void apply(QApplication& app, Look look)
{
    makeMarksKnown();
    setColours(look);
    QApplication::setStyle("Fusion");
    QPalette palette;
    palette.setColor(QPalette::Window, panel);
    palette.setColor(QPalette::Base, field);
    palette.setColor(QPalette::AlternateBase, panel);
    palette.setColor(QPalette::Button, panel);
    palette.setColor(QPalette::ToolTipBase, panel);
    palette.setColor(QPalette::ToolTipText, ink);
    palette.setColor(QPalette::WindowText, ink);
    palette.setColor(QPalette::Text, ink);
    palette.setColor(QPalette::ButtonText, ink);
    palette.setColor(QPalette::PlaceholderText, faint);
    palette.setColor(QPalette::Highlight, verdigris);
    palette.setColor(QPalette::HighlightedText, field);
    palette.setColor(QPalette::Link, verdigris);
    QApplication::setPalette(palette);
    QApplication::setFont(text(9.5));
    QString sheet = styleSheet;
    const std::pair<const char*, QColor> names[] = {{"%ink%", ink},     {"%panel%", panel},         {"%shade%", shade},
                                                    {"%line%", line},   {"%field%", field},         {"%soft%", soft},
                                                    {"%faint%", faint}, {"%verdigris%", verdigris}, {"%cinnabar%", cinnabar}};
    for (const auto& [name, colour] : names) {
        sheet.replace(name, colour.name());
    }
    app.setStyleSheet(sheet);
}

namespace
{

/// A font that was made before, or made now. One map for each thread, so that none waits.
template <typename Make>
QFont kept(QHash<std::pair<double, int>, QFont>& fonts, double points, QFont::Weight weight, Make&& make)
{
    const std::pair<double, int> key{points, weight};
    auto known = fonts.find(key);
    if (known == fonts.end()) {
        QFont font = make();
        font.setPointSizeF(points);
        font.setWeight(weight);
        known = fonts.insert(key, font);
    }
    return *known;
}

} // namespace

QFont text(double points, QFont::Weight weight)
{
    thread_local QHash<std::pair<double, int>, QFont> fonts;
    return kept(fonts, points, weight, [] { return QFont("Lato"); });
}

QFont number(double points, QFont::Weight weight)
{
    thread_local QHash<std::pair<double, int>, QFont> fonts;
    return kept(fonts, points, weight, [] {
        QFont font("DejaVu Sans Mono");
        font.setStyleHint(QFont::Monospace);
        return font;
    });
}

QColor colourOf(EmitterKind kind)
{
    switch (kind) {
    case EmitterKind::bed: return verdigris;
    case EmitterKind::area: return lapis;
    case EmitterKind::sprinkle: return mallow;
    case EmitterKind::roamer: return malachite;
    case EmitterKind::steps: return umber;
    case EmitterKind::pulse: return rust;
    case EmitterKind::point: break;
    }
    return ochre;
}

namespace
{

void paintMark(QPainter& painter, EmitterKind kind, const QPointF& c, double size, const QColor& colour, bool hollow)
{
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    const double r = size / 2.0;
    if (kind == EmitterKind::bed) {
        painter.setPen(QPen(colour, std::max(1.4, size / 9.0), Qt::SolidLine, Qt::RoundCap));
        for (int row = -1; row <= 1; ++row) {
            QPainterPath wave;
            const double y = c.y() + row * r * 0.65;
            wave.moveTo(c.x() - r, y);
            wave.cubicTo(c.x() - r / 2, y - r * 0.7, c.x() - r / 2, y - r * 0.7, c.x(), y);
            wave.cubicTo(c.x() + r / 2, y + r * 0.7, c.x() + r / 2, y + r * 0.7, c.x() + r, y);
            painter.drawPath(wave);
        }
    } else if (kind == EmitterKind::area) {
        const QRectF square(c.x() - r * 0.85, c.y() - r * 0.85, 1.7 * r, 1.7 * r);
        painter.fillRect(square, paper);
        painter.setPen(QPen(colour, std::max(1.2, size / 11.0)));
        painter.drawRect(square);
        painter.drawLine(square.bottomLeft(), square.topRight());
        painter.drawLine(QPointF(square.left(), c.y()), QPointF(c.x(), square.top()));
        painter.drawLine(QPointF(c.x(), square.bottom()), QPointF(square.right(), c.y()));
    } else if (kind == EmitterKind::sprinkle) {
        painter.setPen(hollow ? QPen(colour, 1.2) : QPen(Qt::NoPen));
        painter.setBrush(hollow ? paper : colour);
        painter.drawEllipse(QPointF(c.x() - r * 0.5, c.y() + r * 0.35), r * 0.36, r * 0.36);
        painter.drawEllipse(QPointF(c.x() + r * 0.55, c.y() + r * 0.5), r * 0.28, r * 0.28);
        painter.drawEllipse(QPointF(c.x() + r * 0.15, c.y() - r * 0.5), r * 0.42, r * 0.42);
    } else if (kind == EmitterKind::roamer) {
        painter.setPen(QPen(colour, hollow ? 1.4 : 0.8));
        painter.setBrush(hollow ? paper : colour);
        painter.drawPolygon(QPolygonF{{QPointF(c.x() + r, c.y()), QPointF(c.x() - r * 0.3, c.y() - r * 0.75),
                                       QPointF(c.x() - r * 0.3, c.y() + r * 0.75)}});
        painter.setPen(QPen(colour, std::max(1.2, size / 9.0), Qt::DotLine));
        painter.drawLine(QPointF(c.x() - r * 1.1, c.y()), QPointF(c.x() - r * 0.4, c.y()));
    } else if (kind == EmitterKind::steps) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(colour);
        painter.drawEllipse(QPointF(c.x() - r * 0.45, c.y() + r * 0.3), r * 0.32, r * 0.62);
        painter.drawEllipse(QPointF(c.x() + r * 0.45, c.y() - r * 0.3), r * 0.32, r * 0.62);
    } else if (kind == EmitterKind::pulse) {
        // Beats that come closer to each other.
        painter.setPen(QPen(colour, std::max(1.4, size / 7.0), Qt::SolidLine, Qt::FlatCap));
        for (const double x : {-0.95, -0.1, 0.45, 0.9}) {
            painter.drawLine(QPointF(c.x() + r * x, c.y() - r * 0.75), QPointF(c.x() + r * x, c.y() + r * 0.75));
        }
    } else {
        const QPolygonF diamond{
            {QPointF(c.x(), c.y() - r), QPointF(c.x() + r, c.y()), QPointF(c.x(), c.y() + r), QPointF(c.x() - r, c.y())}};
        painter.setPen(QPen(colour, hollow ? 1.4 : 0.8));
        painter.setBrush(hollow ? paper : colour);
        painter.drawPolygon(diamond);
    }
    painter.restore();
}

} // namespace

void drawMark(QPainter& painter, EmitterKind kind, const QPointF& centre, double size, const QColor& colour, bool hollow)
{
    // The same few marks are drawn hundreds of times a second: on a screen from pictures, elsewhere by their lines.
    const bool pixels = painter.paintEngine() != nullptr && painter.paintEngine()->type() == QPaintEngine::Raster;
    if (!pixels || painter.worldTransform().type() > QTransform::TxTranslate) {
        paintMark(painter, kind, centre, size, colour, hollow);
        return;
    }
    const double ratio = painter.device()->devicePixelRatioF();
    const int side = static_cast<int>(std::ceil(size)) + 6;
    // Which of them, as a text that takes no time to make: there may be thousands in a picture.
    const QRgb rgba = colour.rgba();
    const std::array<QChar, 7> parts{QChar(u'm'),
                                     QChar(static_cast<char16_t>(kind)),
                                     QChar(static_cast<char16_t>(std::lround(size * 8.0))),
                                     QChar(static_cast<char16_t>(rgba >> 16U)),
                                     QChar(static_cast<char16_t>(rgba & 0xFFFFU)),
                                     QChar(static_cast<char16_t>(hollow ? 1 : 0)),
                                     QChar(static_cast<char16_t>(std::lround(ratio * 64.0)))};
    const QString key(parts.data(), static_cast<qsizetype>(parts.size()));
    QPixmap picture;
    if (!QPixmapCache::find(key, &picture)) {
        picture = QPixmap(QSize(side, side) * ratio);
        picture.setDevicePixelRatio(ratio);
        picture.fill(Qt::transparent);
        QPainter into(&picture);
        paintMark(into, kind, QPointF(side / 2.0, side / 2.0), size, colour, hollow);
        into.end();
        QPixmapCache::insert(key, picture);
    }
    painter.drawPixmap(QPointF(centre.x() - side / 2.0, centre.y() - side / 2.0), picture);
}

QString signedNumber(double value, int decimals)
{
    QString shown = QString::number(std::abs(value), 'f', decimals);
    const bool zero = shown.toDouble() == 0.0;
    return (value < 0.0 && !zero ? QStringLiteral("−") : QString()) + shown;
}

QString decibels(double db)
{
    return std::isfinite(db) ? signedNumber(db, 1) : QStringLiteral("silent");
}

QString metres(double m)
{
    return QString::number(m, 'f', std::abs(m) < 100.0 ? 1 : 0) + " m";
}

QString clock(double seconds)
{
    const int minutes = static_cast<int>(seconds) / 60;
    return QString("%1:%2").arg(minutes).arg(seconds - 60.0 * minutes, 4, 'f', 1, '0');
}

} // namespace stone::theme
