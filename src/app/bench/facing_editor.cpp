// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/facing_editor.h"

#include "app/theme/labels.h"
#include "app/theme/lobe.h"
#include "project/range.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>

#include <cmath>

namespace stone
{

namespace
{

/// From the middle of the dial (quietest) to its rim (as it is ahead).
constexpr double quietest_db = -30.0;
constexpr double grab_px = 12.0;

double headingOf(const Vec3& from, const Vec3& to)
{
    return degrees(std::atan2(to.x - from.x, to.y - from.y));
}

} // namespace

LobeDial::LobeDial(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback)
{
    setObjectName("lobeDial");
    setAccessibleName(tr("Lobe: how it sounds all round"));
    setToolTip(tr("Drag the arrow to turn it; drag your ears round it and nearer to listen from there until you let go"));
    setFixedSize(sizeHint());
    setMouseTracking(true);
}

QPointF LobeDial::at(double heading_deg, double r) const
{
    const double a = radians(heading_deg);
    return centre() + QPointF(r * std::sin(a), -r * std::cos(a));
}

double LobeDial::metresToPixels(double metres) const
{
    return radius() * std::min(metres / range_m_, 1.0);
}

QPointF LobeDial::frontPlace() const
{
    const Emitter* emitter = session_.subject();
    return emitter != nullptr ? at(emitter->heading_deg, radius() + 5.0) : centre();
}

QPointF LobeDial::earsPlace() const
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return centre();
    }
    const Vec3 ears = playback_.ears().at;
    return at(headingOf(emitter->at, ears), metresToPixels(std::hypot(ears.x - emitter->at.x, ears.y - emitter->at.y)));
}

void LobeDial::paintEvent(QPaintEvent*)
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    if (grip_ == Grip::none) {
        const Vec3 ears = playback_.ears().at;
        const double distance = std::hypot(ears.x - emitter->at.x, ears.y - emitter->at.y);
        range_m_ = lanes::rulerFor(std::clamp(distance, 4.0, 40.0));
    }
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(theme::line, 1));
    painter.setBrush(theme::field);
    painter.drawEllipse(centre(), radius(), radius());
    painter.setBrush(Qt::NoBrush);
    for (const double db : {-10.0, -20.0}) {
        const double r = radius() * (1.0 - db / quietest_db);
        painter.drawEllipse(centre(), r, r);
    }
    QColor fill = theme::ochre;
    fill.setAlpha(60);
    painter.setBrush(fill);
    painter.setPen(QPen(theme::ochre, 1.6));
    painter.drawPath(theme::lobe(*emitter, centre(), radius()));
    painter.setPen(QPen(theme::ochre, 2));
    painter.drawLine(centre(), at(emitter->heading_deg, radius() + 4));
    const double a = emitter->heading_deg;
    painter.setBrush(theme::ochre);
    painter.drawPolygon(QPolygonF{at(a, radius() + 12), at(a - 5, radius() + 2), at(a + 5, radius() + 2)});
    theme::drawMark(painter, emitter->kind, centre(), 11, theme::ochre);
    const QPointF ears = earsPlace();
    painter.setPen(QPen(theme::ink, 1, Qt::DotLine));
    painter.drawLine(centre(), ears);
    painter.setPen(QPen(theme::ink, 1.6));
    painter.setBrush(playback_.elsewhere() ? theme::paper : theme::ink);
    painter.drawEllipse(ears, 5, 5);
    painter.setFont(theme::text(7));
    painter.setPen(theme::soft);
    painter.drawText(QRectF(0, height() - 12, width(), 12), Qt::AlignRight, tr("rim %1").arg(theme::metres(range_m_)));
    painter.drawText(QRectF(0, 0, 14, 12), Qt::AlignLeft, tr("N"));
}

void LobeDial::mousePressEvent(QMouseEvent* event)
{
    const auto distance = [&](const QPointF& p) {
        return std::hypot(p.x() - event->position().x(), p.y() - event->position().y());
    };
    grip_ = distance(earsPlace()) < grab_px ? Grip::ears : distance(frontPlace()) < grab_px + 4.0 ? Grip::front : Grip::none;
    ++gestures_;
}

void LobeDial::mouseMoveEvent(QMouseEvent* event)
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr || grip_ == Grip::none) {
        return;
    }
    const QPointF offset = event->position() - centre();
    const double heading = degrees(std::atan2(offset.x(), -offset.y()));
    if (grip_ == Grip::front) {
        const double whole = std::round(heading);
        session_.editSubject(tr("Turn %1 to %2°").arg(QString::fromStdString(emitter->name)).arg(whole),
                             QString("turn %1").arg(gestures_), [&](Emitter& e) { e.heading_deg = whole; });
        return;
    }
    const double metres = std::hypot(offset.x(), offset.y()) / radius() * range_m_;
    Pose feet = playback_.feet();
    feet.at.x = emitter->at.x + std::sin(radians(heading)) * metres;
    feet.at.y = emitter->at.y + std::cos(radians(heading)) * metres;
    playback_.listenFrom(feet);
    update();
}

void LobeDial::mouseReleaseEvent(QMouseEvent*)
{
    if (grip_ == Grip::ears) {
        playback_.listenFrom({});
    }
    grip_ = Grip::none;
    session_.endGesture();
    update();
}

FacingEditor::FacingEditor(Session& session, Playback& playback, QWidget* parent)
    : Page(parent), session_(session), playback_(playback), dial_(new LobeDial(session, playback)),
      heading_(new NumberField(QStringLiteral("°"), rangeOf(&Emitter::heading_deg), 0, 5)),
      tilt_(new NumberField(QStringLiteral("°"), rangeOf(&Emitter::tilt_deg), 0, 5)),
      toEars_(new QPushButton(tr("face the ears"))), over_(new QComboBox), top_(new QWidget),
      lanes_(new LaneStack(
          LaneInput::offFront,
          {LaneProperty::level, LaneProperty::lowPass, LaneProperty::highPass, LaneProperty::spread, LaneProperty::send},
          source()))
{
    heading_->setObjectName("emitterHeading");
    heading_->setToolTip(tr("Where its front faces: 0 north, 90 east"));
    tilt_->setObjectName("emitterTilt");
    tilt_->setToolTip(tr("How far its front looks up"));
    toEars_->setProperty("link", true);
    over_->setObjectName("laneOver");
    over_->setAccessibleName(tr("What these lanes follow"));

    auto* fields = new QVBoxLayout;
    fields->setSpacing(1);
    fields->addWidget(theme::caption(tr("Faces"), heading_));
    fields->addWidget(heading_);
    fields->addSpacing(4);
    fields->addWidget(theme::caption(tr("Looks up"), tilt_));
    fields->addWidget(tilt_);
    fields->addSpacing(4);
    fields->addWidget(toEars_, 0, Qt::AlignLeft);
    fields->addStretch();
    auto* top = new QHBoxLayout(top_);
    top->setContentsMargins(0, 0, 0, 0);
    top->addWidget(dial_);
    top->addSpacing(8);
    top->addLayout(fields, 1);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(4);
    box->addWidget(top_);
    box->addWidget(over_);
    box->addWidget(lanes_);
    box->addStretch(1);

    const auto bind = [this](NumberField* field, const QString& what, double Emitter::*member) {
        connect(field, &NumberField::valueEdited, this, [this, field, what, member](double value) {
            session_.editSelected(what.arg(value), field->objectName(), [&](Emitter& e) { e.*member = value; });
        });
        connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    };
    bind(heading_, tr("Turn to %1°"), &Emitter::heading_deg);
    bind(tilt_, tr("Tilt to %1°"), &Emitter::tilt_deg);
    connect(toEars_, &QPushButton::clicked, this, [this] {
        if (const Emitter* emitter = session_.subject()) {
            const double heading = std::round(headingOf(emitter->at, playback_.ears().at));
            session_.editSubject(tr("Turn %1 to the ears").arg(QString::fromStdString(emitter->name)), {},
                                 [&](Emitter& e) { e.heading_deg = heading; });
        }
    });
    connect(over_, &QComboBox::activated, this, &FacingEditor::chooseInput);
}

LaneInput FacingEditor::input() const
{
    return static_cast<LaneInput>(over_->currentData().toInt());
}

GameValueId FacingEditor::value() const
{
    return {over_->currentData(Qt::UserRole + 1).toString().toStdString()};
}

void FacingEditor::chooseInput()
{
    const GameValue* known = session_.project().gameValues.find(value());
    lanes_->setInput(input(), value(), known != nullptr ? lanes::Stretch{known->least, known->most} : lanes::Stretch{0.0, 1.0});
}

/// What lanes may follow, for this kind of emitter and with the game values that there are.
void FacingEditor::offerInputs(const Emitter& emitter)
{
    struct Input {
        QString text;
        LaneInput over;
        std::string value;
    };
    std::vector<Input> inputs;
    const bool faces = emitter.kind != EmitterKind::bed && emitter.kind != EmitterKind::area;
    if (faces) {
        inputs.push_back({tr("Over the angle off its front"), LaneInput::offFront, {}});
        inputs.push_back({tr("Over the direction round your ears"), LaneInput::direction, {}});
    }
    inputs.push_back({tr("Over the speed at which you pass"), LaneInput::speed, {}});
    inputs.push_back({tr("Over the depth in its zone"), LaneInput::depth, {}});
    for (const auto& known : session_.project().gameValues) {
        inputs.push_back(
            {tr("Over the game value %1").arg(QString::fromStdString(known->name)), LaneInput::gameValue, known->id.text});
    }
    top_->setVisible(faces);
    QStringList texts;
    for (const Input& one : inputs) {
        texts << one.text;
    }
    QStringList shown;
    for (int i = 0; i < over_->count(); ++i) {
        shown << over_->itemText(i);
    }
    if (texts == shown) {
        return;
    }
    const QSignalBlocker quiet(over_);
    const QString current = over_->currentText();
    over_->clear();
    for (const Input& one : inputs) {
        over_->addItem(one.text, static_cast<int>(one.over));
        over_->setItemData(over_->count() - 1, QString::fromStdString(one.value), Qt::UserRole + 1);
    }
    over_->setCurrentIndex(std::max(over_->findText(current), 0));
    chooseInput();
}

LaneStack::Source FacingEditor::source()
{
    return {.lanes =
                [this] {
                    const Emitter* emitter = session_.subject();
                    return emitter != nullptr ? emitter->lanes : std::vector<Lane>{};
                },
            .change =
                [this](std::vector<Lane> lanes, const QString& what, const QString& gesture) {
                    if (const Emitter* emitter = session_.subject()) {
                        session_.editSelected(tr("%1: %2").arg(QString::fromStdString(emitter->name), what), gesture,
                                              [&](Emitter& e) { e.lanes = lanes; });
                    }
                },
            .endGesture = [this] { session_.endGesture(); },
            .place = [this]() -> std::optional<double> {
                const int index = session_.subjectIndex();
                if (index < 0 || static_cast<std::size_t>(index) >= playback_.hearing().level().emitters.size()) {
                    return {};
                }
                const Moment moment = playback_.moment();
                const Heard& heard = playback_.heardOf(static_cast<std::uint32_t>(index));
                switch (input()) {
                case LaneInput::speed: return heard.speed_m_s;
                case LaneInput::depth: return heard.depth_m;
                case LaneInput::gameValue: return playback_.hearing().world().valueAt(moment, value());
                case LaneInput::offFront: return heard.offFront_deg;
                case LaneInput::direction: return heard.bearing.azimuth_deg;
                default: return {};
                }
            },
            .ghost = [] { return std::vector<Lane>{}; },
            .preview = [this](double x) { listenAt(x); },
            .endPreview = [this] { playback_.listenFrom({}); }};
}

void FacingEditor::listenAt(double x)
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr || (input() != LaneInput::offFront && input() != LaneInput::direction)) {
        return;
    }
    Pose feet = playback_.feet();
    const Vec3 offset = playback_.characterEars().at - emitter->at;
    if (input() == LaneInput::offFront) {
        // Round the emitter at the same distance, on the side where the ears are.
        const double side =
            wrapDegrees(headingOf(emitter->at, playback_.characterEars().at) - emitter->heading_deg) < 0.0 ? -1.0 : 1.0;
        const double heading = radians(emitter->heading_deg + side * x);
        const double flat = std::hypot(offset.x, offset.y);
        feet.at.x = emitter->at.x + flat * std::sin(heading);
        feet.at.y = emitter->at.y + flat * std::cos(heading);
    } else {
        feet.heading_deg = headingOf(playback_.characterEars().at, emitter->at) - x;
    }
    playback_.listenFrom(feet);
}

void FacingEditor::refresh()
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    offerInputs(*emitter);
    heading_->present(emitter->heading_deg);
    tilt_->present(emitter->tilt_deg);
    dial_->update();
    lanes_->refresh();
}

void FacingEditor::follow()
{
    if (isVisible()) {
        dial_->update();
        lanes_->refreshPlace();
    }
}

} // namespace stone
