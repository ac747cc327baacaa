#include "app/bench/falloff_editor.h"

#include "acoustics/distance.h"
#include "app/theme/labels.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include <cmath>

namespace stone
{

namespace
{

QString formulaOf(DistanceModel model)
{
    switch (model) {
    case DistanceModel::inverse: return QObject::tr("gain = ref ÷ (ref + factor × (distance − ref))");
    case DistanceModel::linear: return QObject::tr("gain = 1 − factor × (distance − ref) ÷ (max − ref)");
    case DistanceModel::exponential: return QObject::tr("gain = (distance ÷ ref) ^ −factor");
    }
    return {};
}

} // namespace

FalloffEditor::FalloffEditor(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), which_(new QComboBox), sharing_(new QPushButton),
      model_(new QComboBox), reference_(new NumberField("m", 0.0, 1e6, 2, 0.5)), end_(new NumberField("m", 0.0, 1e6, 2, 1.0)),
      endLabel_(theme::caption({})), factor_(new NumberField("", 0.0, 1000.0, 2, 0.1)), formulaText_(theme::caption({})),
      earsText_(theme::caption({})), strip_(new LaneStrip)
{
    which_->setObjectName("falloff");
    which_->setAccessibleName(tr("Falloff"));
    which_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    model_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    which_->setToolTip(tr("Which falloff this emitter uses. A shared one changes for all its users."));
    sharing_->setProperty("link", true);
    sharing_->setObjectName("falloffSharing");
    model_->addItems({tr("inverse"), tr("linear"), tr("exponential")});
    model_->setObjectName("falloffModel");
    model_->setAccessibleName(tr("Distance model"));
    model_->setToolTip(tr("How the level falls: inverse like a small thing in the open, linear steadily to nothing, "
                          "exponential faster and faster"));
    reference_->setObjectName("reference");
    reference_->setToolTip(tr("Up to here it is heard at full level"));
    end_->setObjectName("silentAt");
    factor_->setObjectName("factor");
    factor_->setToolTip(tr("How steeply the level falls; 1 is the usual"));

    auto* top = new QHBoxLayout;
    top->addWidget(which_, 1);
    top->addWidget(sharing_);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    grid->addWidget(theme::caption(tr("Model")), 0, 0);
    grid->addWidget(theme::caption(tr("Full up to")), 0, 1);
    grid->addWidget(endLabel_, 0, 2);
    grid->addWidget(theme::caption(tr("Factor")), 0, 3);
    grid->addWidget(model_, 1, 0);
    grid->addWidget(reference_, 1, 1);
    grid->addWidget(end_, 1, 2);
    grid->addWidget(factor_, 1, 3);
    model_->setMinimumWidth(104);
    grid->setColumnStretch(0, 4);
    grid->setColumnStretch(1, 3);
    grid->setColumnStretch(2, 3);
    grid->setColumnStretch(3, 2);
    auto* below = new QHBoxLayout;
    below->addWidget(formulaText_, 1);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(4);
    box->addLayout(top);
    box->addLayout(grid);
    box->addLayout(below);
    box->addWidget(strip_);
    box->addWidget(earsText_, 0, Qt::AlignHCenter);

    connect(which_, &QComboBox::activated, this, &FalloffEditor::chooseFalloff);
    connect(sharing_, &QPushButton::clicked, this, [this] {
        const Emitter* emitter = session_.primary();
        if (emitter != nullptr && std::holds_alternative<Falloff>(emitter->falloff)) {
            share();
        } else {
            makeOwn();
        }
    });
    connect(model_, &QComboBox::activated, this, [this](int index) {
        if (const Emitter* emitter = session_.primary()) {
            DistanceFormula formula = falloffOf(session_.project(), *emitter).lanes.front().formula;
            const double silent = silentOrFaint_m(formula);
            formula.model = static_cast<DistanceModel>(index);
            if (formula.model == DistanceModel::linear && std::isfinite(silent)) {
                formula.maximum_m = silent; // it is to end where it ended before
            }
            change(formula, tr("model to %1").arg(model_->itemText(index)), {});
        }
    });
    const auto formulaNow = [this] { return falloffOf(session_.project(), *session_.primary()).lanes.front().formula; };
    connect(reference_, &NumberField::valueEdited, this, [this, formulaNow](double value) {
        DistanceFormula formula = formulaNow();
        formula.reference_m = value;
        change(formula, tr("full up to %1").arg(theme::metres(value)), "reference field");
    });
    connect(end_, &NumberField::valueEdited, this, [this, formulaNow](double value) {
        change(withSilentAt(formulaNow(), value), tr("silent at %1").arg(theme::metres(value)), "silent field");
    });
    connect(factor_, &NumberField::valueEdited, this, [this, formulaNow](double value) {
        DistanceFormula formula = formulaNow();
        formula.factor = value;
        change(formula, tr("factor to %1").arg(value), "factor field");
    });
    for (NumberField* field : {reference_, end_, factor_}) {
        connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    }
    connect(strip_, &LaneStrip::formulaMoved, this, [this, formulaNow](const DistanceFormula& formula, const QString& gesture) {
        const bool full = formula.reference_m != formulaNow().reference_m;
        change(formula,
               full ? tr("full up to %1").arg(theme::metres(fullUpTo_m(formula)))
                    : tr("silent at %1").arg(theme::metres(silentOrFaint_m(formula))),
               gesture);
    });
    connect(strip_, &LaneStrip::gestureEnded, this, [this] { session_.endGesture(); });
    connect(strip_, &LaneStrip::earsMoved, this, &FalloffEditor::moveEars);
}

std::optional<double> FalloffEditor::earsDistance() const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || emitter->kind != EmitterKind::point) {
        return {};
    }
    return glm::length(emitter->at - playback_.ears().at);
}

void FalloffEditor::refresh()
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || emitter->kind != EmitterKind::point) {
        return;
    }
    const Project& project = session_.project();
    const Falloff& falloff = falloffOf(project, *emitter);
    const DistanceFormula& formula = falloff.lanes.front().formula;
    const QSignalBlocker quietWhich(which_);
    which_->clear();
    for (const auto& shared : project.falloffs) {
        which_->addItem(QString::fromStdString(shared->name), QString::fromStdString(shared->id.text));
    }
    which_->addItem(tr("its own"), QString());
    const auto* shared = std::get_if<FalloffId>(&emitter->falloff);
    const bool known = shared != nullptr && project.falloffs.find(*shared) != nullptr;
    which_->setCurrentIndex(known ? which_->findData(QString::fromStdString(shared->text)) : which_->count() - 1);
    if (known) {
        sharing_->setText(tr("shared by %1 · make own").arg(usersOf(project, *shared)));
        sharing_->setToolTip(tr("Give this emitter a copy, so that changes no longer reach the others"));
    } else {
        sharing_->setText(tr("share it"));
        sharing_->setToolTip(tr("Put it among the shared falloffs, so that others can use it"));
    }
    model_->setCurrentIndex(static_cast<int>(formula.model));
    reference_->present(formula.reference_m);
    const bool maximum = formula.model == DistanceModel::linear && formula.factor >= 1.0;
    endLabel_->setText(maximum ? tr("Maximum") : tr("Silent at"));
    end_->setToolTip(maximum ? tr("The linear model is silent from here on")
                             : tr("Silent from here on, fading over the last fifth; 0: no end"));
    end_->present(maximum ? formula.maximum_m : formula.silentAt_m);
    factor_->present(formula.factor);
    formulaText_->setText(formulaOf(formula.model));
    refreshEars();
}

void FalloffEditor::refreshEars()
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || emitter->kind != EmitterKind::point) {
        return;
    }
    const auto distance = earsDistance();
    strip_->showLane(falloffOf(session_.project(), *emitter).lanes.front().formula, distance);
    earsText_->setText(distance
                           ? tr("your ears %1 away · drag the line to hear it nearer or farther").arg(theme::metres(*distance))
                           : QString());
}

void FalloffEditor::chooseFalloff(int index)
{
    const QString id = which_->itemData(index).toString();
    if (id.isEmpty()) {
        makeOwn();
        return;
    }
    session_.editPrimary(tr("Use falloff %1").arg(which_->itemText(index)), {},
                         [&](Emitter& e) { e.falloff = FalloffId{id.toStdString()}; });
}

void FalloffEditor::makeOwn()
{
    if (const Emitter* emitter = session_.primary()) {
        const QString name = tr("Give %1 a falloff of its own").arg(QString::fromStdString(emitter->name));
        session_.edit(withOwnFalloff(session_.project(), session_.levelId(), emitter->id), name);
    }
}

void FalloffEditor::share()
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr) {
        return;
    }
    Project next = session_.project();
    Falloff shared = falloffOf(next, *emitter);
    shared.name = emitter->name;
    shared.id = next.falloffs.freshId(shared.name);
    const FalloffId id = shared.id;
    next.falloffs.put(std::move(shared));
    next = withEmitter(std::move(next), session_.levelId(), emitter->id, [&](Emitter& e) { e.falloff = id; });
    session_.edit(std::move(next), tr("Share the falloff of %1").arg(QString::fromStdString(emitter->name)));
}

void FalloffEditor::change(const DistanceFormula& formula, const QString& what, const QString& gesture)
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr) {
        return;
    }
    Falloff falloff = falloffOf(session_.project(), *emitter);
    falloff.lanes.front().formula = formula;
    const QString of = falloff.name.empty() ? QString::fromStdString(emitter->name) : QString::fromStdString(falloff.name);
    session_.edit(withFalloff(session_.project(), session_.levelId(), emitter->id, std::move(falloff)),
                  tr("Falloff of %1: %2").arg(of, what), gesture);
}

void FalloffEditor::moveEars(double distance_m)
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr) {
        return;
    }
    // Along the line from the emitter through the ears, at the height where the ears are.
    const Pose ears = playback_.ears();
    const Vec3 offset = ears.at - emitter->at;
    const double flat = std::hypot(offset.x, offset.y);
    const Vec2 way = flat > 1e-6 ? Vec2{offset.x, offset.y} / flat : Vec2{0.0, -1.0};
    const double wanted = std::sqrt(std::max(0.0, distance_m * distance_m - offset.z * offset.z));
    Pose feet = playback_.feet();
    feet.at.x = emitter->at.x + way.x * std::max(wanted, 1e-3);
    feet.at.y = emitter->at.y + way.y * std::max(wanted, 1e-3);
    playback_.carryFeet(feet);
}

} // namespace stone
