// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ears/rig_page.h"

#include "app/ears/rig_button.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QPushButton>

#include <cmath>

namespace stone
{

RigPage::RigPage(Session& session, Playback& playback, QWidget* parent)
    : ThingForm(session, parent), playback_(playback), fixed_(new QLabel), places_(new QLabel)
{
    setObjectName("rigPage");
    fields_ = makeFields();
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(7);
    auto* back = new QPushButton(tr("‹ back"));
    back->setObjectName("rigBack");
    back->setProperty("link", true);
    connect(back, &QPushButton::clicked, this, &RigPage::backWanted);
    box->addWidget(back, 0, Qt::AlignLeft);
    auto* what = theme::caption(
        tr("Rig: where camera and ears are. The button over the Ear dial chooses another, or makes one; O goes through them."));
    what->setWordWrap(true);
    box->addWidget(what);
    fixed_->setWordWrap(true);
    fixed_->setText(
        tr("<b>First person</b><br>Camera and ears are the character's own. Make another rig to put them elsewhere."));
    box->addWidget(fixed_);
    box->addWidget(fields_);
    box->addWidget(theme::heading(tr("Who counts, in the whole project")));
    box->addWidget(makeCounting());
    box->addWidget(theme::heading(tr("Just now")));
    box->addWidget(makeHead());
    places_->setObjectName("rigPlaces");
    places_->setWordWrap(true);
    box->addWidget(places_);
    auto* compare = new QPushButton(tr("Compare two rigs on a walk…"));
    compare->setObjectName("compareRigs");
    connect(compare, &QPushButton::clicked, this, &RigPage::compareWanted);
    box->addWidget(compare, 0, Qt::AlignLeft);
    box->addStretch();
}

QWidget* RigPage::makeFields()
{
    auto* page = new QWidget;
    auto* grid = new QGridLayout(page);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    auto* name = words("rigName", tr("Name"), [](Rig& r) -> std::string& { return r.name; });
    name->setFont(theme::text(12, QFont::Bold));
    auto* remove = new QPushButton(tr("Remove"));
    remove->setObjectName("removeRig");
    connect(remove, &QPushButton::clicked, this, [this] {
        Project next = session_.project();
        const QString called = QString::fromStdString(rigOf(next, next.rig).name);
        next.rigs.remove(next.rig);
        next.rig = {};
        session_.edit(std::move(next), tr("Remove the rig %1").arg(called));
    });
    grid->addWidget(name, 0, 0, 1, 2);
    grid->addWidget(remove, 0, 2);
    grid->addWidget(
        labelled(tr("Camera"), choice(
                                   "rigKind", tr("Camera"), rigKinds(), [](const Rig& r) { return static_cast<int>(r.kind); },
                                   [](Rig& r, int index) { r.kind = static_cast<Rig::Kind>(index); })),
        1, 0, 1, 2);
    const auto field = [&](int row, int column, const QString& label, const NumberWords& words, const NumberRange& range,
                           double Rig::*member, std::initializer_list<Rig::Kind> kinds, const QString& otherwise) {
        auto* shown = number(words, range, [member](Rig& r) -> double& { return r.*member; });
        grid->addWidget(labelled(label, shown), row, column);
        allow(shown, [kinds = std::vector<Rig::Kind>(kinds), otherwise](const Rig& r) {
            return std::find(kinds.begin(), kinds.end(), r.kind) != kinds.end() ? QString() : otherwise;
        });
    };
    using Kind = Rig::Kind;
    const QString degree = QStringLiteral("°");
    field(2, 0, tr("Distance"), {"rigDistance", "m", tr("camera %1 m away"), tr("From the character's head")},
          {0, 1000, 2, 0.1}, &Rig::distance_m, {Kind::overShoulder, Kind::fromAbove, Kind::sideOn},
          tr("in the first person it is at the head"));
    field(2, 1, tr("Higher by"), {"rigHeight", "m", tr("camera %1 m higher"), tr("Than the head")}, {-1000, 1000, 2, 0.1},
          &Rig::height_m, {Kind::overShoulder, Kind::sideOn}, tr("this kind has none; from above it is the tilt that counts"));
    field(2, 2, tr("To the side"), {"rigAngle", degree, tr("camera %1° to the side"), tr("Off straight behind, to the right")},
          {-180, 180, 0, 5}, &Rig::angle_deg, {Kind::overShoulder}, tr("only over the shoulder"));
    field(3, 0, tr("Tilt"), {"rigTilt", degree, tr("tilt %1°"), tr("How steeply it looks down")}, {0, 90, 0, 5}, &Rig::tilt_deg,
          {Kind::fromAbove}, tr("only from above"));
    auto* heading = number({"rigHeading", degree, tr("camera looks to %1°"), tr("0 north, 90 east")}, {-360, 360, 0, 5},
                           [](Rig& r) -> double& { return r.heading_deg; });
    grid->addWidget(labelled(tr("Looks to"), heading), 3, 1);
    allow(heading, [](const Rig& r) {
        return r.kind == Kind::sideOn || (r.kind == Kind::fromAbove && !r.turns) ? QString()
                                                                                 : tr("it turns with the character");
    });
    auto* turns = flag("rigTurns", tr("turns along"), tr("The camera turns with the character; else it keeps the compass"),
                       [](Rig& r) -> bool& { return r.turns; });
    grid->addWidget(turns, 3, 2, Qt::AlignBottom);
    allow(turns, [](const Rig& r) { return r.kind == Kind::fromAbove ? QString() : tr("only from above"); });
    auto* walls = flag("rigWalls", tr("kept out of walls"), tr("The camera comes nearer where something stands in between"),
                       [](Rig& r) -> bool& { return r.keptOutOfWalls; });
    grid->addWidget(walls, 4, 0, 1, 3);
    allow(walls, [](const Rig& r) { return r.kind != Kind::firstPerson ? QString() : tr("it is at the head"); });
    auto* share =
        number({"rigEars", "%", tr("ears %1 % towards the camera"), tr("0: at the character's head, 100: at the camera")},
               {0, 100, 0, 5, 100}, [](Rig& r) -> double& { return r.ears; });
    grid->addWidget(labelled(tr("Ears towards camera"), share), 5, 0);
    grid->addWidget(labelled(tr("Raised by"), number({"rigRaised", "m", tr("ears raised by %1 m"), tr("Above that place")},
                                                     {-1000, 1000, 2, 0.1}, [](Rig& r) -> double& { return r.raised_m; })),
                    5, 1);
    grid->addWidget(labelled(tr("They face"),
                             choice(
                                 "rigFacing", tr("They face"), {tr("as the camera"), tr("as the character"), tr("a fixed way")},
                                 [](const Rig& r) { return static_cast<int>(r.facing); },
                                 [](Rig& r, int index) { r.facing = static_cast<Rig::Facing>(index); })),
                    6, 0, 1, 2);
    auto* fixed = number({"rigFixed", degree, tr("ears face %1°"), tr("0 north, 90 east")}, {-360, 360, 0, 5},
                         [](Rig& r) -> double& { return r.fixed_deg; });
    grid->addWidget(labelled(tr("Fixed to"), fixed), 6, 2);
    allow(fixed, [](const Rig& r) { return r.facing == Rig::Facing::fixed ? QString() : tr("they do not face a fixed way"); });
    allow(share, [](const Rig& r) { return r.kind != Kind::firstPerson ? QString() : tr("head and camera are one"); });
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    return page;
}

QWidget* RigPage::makeCounting()
{
    auto* page = new QWidget;
    auto* grid = new QGridLayout(page);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    const auto add = [&](int column, const char* name, const QString& label, const QString& help, Who Counting::*member) {
        auto* box = new QComboBox;
        box->setObjectName(name);
        box->setAccessibleName(label);
        box->setToolTip(help);
        box->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        box->addItems({tr("ears"), tr("character"), tr("camera")});
        const auto present = [this, box, member] {
            const QSignalBlocker quiet(box);
            box->setCurrentIndex(static_cast<int>(session_.project().counting.*member));
        };
        connect(&session_, &Session::documentChanged, box, present);
        present();
        connect(box, &QComboBox::activated, this, [this, box, label, member](int index) {
            Project next = session_.project();
            next.counting.*member = static_cast<Who>(index);
            session_.edit(std::move(next), tr("%1: %2").arg(label, box->itemText(index)));
        });
        grid->addWidget(theme::caption(label), 0, column);
        grid->addWidget(box, 1, column);
        grid->setColumnStretch(column, 1);
    };
    add(0, "countsEntering", tr("For entering"), tr("Whose place decides which zones one is in"), &Counting::entering);
    add(1, "countsNearest", tr("For nearness"), tr("From whose place the nearest part of an area or a zone is looked for"),
        &Counting::nearest);
    add(2, "countsGaze", tr("For the gaze"), tr("Whose eyes count for what is looked at"), &Counting::gaze);
    return page;
}

/// The head that is turned by hand; nothing of it is in the document.
QWidget* RigPage::makeHead()
{
    auto* page = new QWidget;
    auto* row = new QHBoxLayout(page);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    const auto add = [&](const char* name, const QString& label, double most, const QString& help, double Pose::*angle) {
        auto* field = new NumberField(QStringLiteral("°"), -most, most, 0, 5);
        field->setObjectName(name);
        field->setToolTip(help);
        connect(field, &NumberField::valueEdited, this, [this, angle](double value) {
            Pose head = playback_.ownHead();
            head.*angle = value;
            playback_.turnHead(head.heading_deg, head.pitch_deg, head.roll_deg);
        });
        heads_.emplace_back(field, angle);
        row->addWidget(labelled(label, field), 1);
    };
    add("headHeading", tr("Heading"), 360, tr("0 north, 90 east"), &Pose::heading_deg);
    add("headPitch", tr("Pitch"), 90, tr("Up is positive"), &Pose::pitch_deg);
    add("headRoll", tr("Roll"), 180, tr("Tipped to the right is positive"), &Pose::roll_deg);
    return page;
}

void RigPage::edit(const QString& what, const QString& gesture, const std::function<void(Rig&)>& change)
{
    if (const Rig* found = thing()) {
        Rig rig = *found;
        change(rig);
        Project next = session_.project();
        const QString name = QString::fromStdString(found->name);
        next.rigs.put(std::move(rig));
        session_.edit(std::move(next), tr("Rig %1: %2").arg(name, what), gesture);
    }
}

void RigPage::refresh()
{
    fixed_->setVisible(thing() == nullptr);
    fields_->setVisible(thing() != nullptr);
    ThingForm::refresh();
    follow();
}

void RigPage::follow()
{
    for (const auto& [field, angle] : heads_) {
        field->present(playback_.ownHead().*angle);
    }
    const Stance& stance = playback_.stance();
    const auto metres = [&](const Pose& a, const Pose& b) { return theme::metres(glm::length(a.at - b.at)); };
    places_->setText(
        tr("The camera is %1 from the head, the ears %2 from the head and %3 high. They face %4°, the camera looks to %5°.")
            .arg(metres(stance.camera, stance.head), metres(stance.ears, stance.head),
                 theme::metres(stance.ears.at.z - stance.feet.at.z))
            .arg(std::lround(wrapDegrees(stance.ears.heading_deg)))
            .arg(std::lround(wrapDegrees(stance.camera.heading_deg))));
}

} // namespace stone
