// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/rooms/opening_page.h"

#include "app/forms/names_of.h"
#include <QGridLayout>

namespace stone
{

OpeningPage::OpeningPage(Session& session, Playback& playback, QWidget* parent)
    : ThingForm(session, parent), playback_(playback), joins_(new QLabel)
{
    setObjectName("openingPage");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(7);
    auto* name = words("openingName", tr("Name"), [](Opening& o) -> std::string& { return o.name; });
    name->setFont(theme::text(12, QFont::Bold));
    box->addWidget(name);
    auto* what = theme::explained(
        tr("Opening: a door, window or arch. It joins what lies on its two sides. Drag its ends on the Plan."));
    box->addWidget(what);
    joins_->setObjectName("openingJoins");
    joins_->setWordWrap(true);
    box->addWidget(joins_);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    struct Field {
        const char* name;
        const char* label;
        std::function<double&(Opening&)> member;
        std::optional<Partner<Opening>> partner{};
    };
    constexpr double leastHeight_m = 0.1;
    const auto sill = [](Opening& o) -> double& { return o.sill_m; };
    const auto head = [](Opening& o) -> double& { return o.head_m; };
    const Field fields[] = {{"openingFromEast", "From east", [](Opening& o) -> double& { return o.from.x; }},
                            {"openingFromNorth", "From north", [](Opening& o) -> double& { return o.from.y; }},
                            {"openingSill", "Lower edge", sill, Partner<Opening>{head, true, leastHeight_m}},
                            {"openingToEast", "To east", [](Opening& o) -> double& { return o.to.x; }},
                            {"openingToNorth", "To north", [](Opening& o) -> double& { return o.to.y; }},
                            {"openingHead", "Upper edge", head, Partner<Opening>{sill, false, leastHeight_m}}};
    for (int i = 0; i < 6; ++i) {
        const QString label = tr(fields[i].label);
        grid->addWidget(labelled(label, number({fields[i].name, "m", label.toLower() + " %1 m", {}}, {-1e6, 1e6, 2, 0.1},
                                               fields[i].member, fields[i].partner)),
                        i / 3, i % 3);
        grid->setColumnStretch(i % 3, 1);
    }
    auto* open =
        number({"openingOpen", "%", tr("%1 % open"), tr("How much of it stands open, with signals: when the level begins")},
               {0, 100, 0, 5, 100}, [](Opening& o) -> double& { return o.open; });
    grid->addWidget(labelled(tr("Stands open"), open), 2, 0);
    allow(open, [](const Opening& o) { return o.follows.empty() ? QString() : tr("it follows a game value"); });
    grid->addWidget(labelled(tr("Or follows"), reference(
                                                   "openingFollows", tr("Or follows"), tr("no game value"),
                                                   [this] { return namesOf(session_.project().gameValues); },
                                                   [](Opening& o) -> std::string& { return o.follows.text; })),
                    2, 1);
    const auto signal = [this](const char* field, const QString& label, std::function<std::string&(Opening&)> member) {
        QComboBox* made = reference(
            field, label, tr("no signal"), [this] { return namesOf(session_.project().signalNames); }, std::move(member));
        allow(made, [](const Opening& o) { return o.follows.empty() ? QString() : tr("it follows a game value"); });
        return labelled(label, made);
    };
    grid->addWidget(signal("openingOpensOn", tr("Swings open on"), [](Opening& o) -> std::string& { return o.opensOn.text; }),
                    3, 0);
    grid->addWidget(signal("openingClosesOn", tr("Shut on"), [](Opening& o) -> std::string& { return o.closesOn.text; }), 3, 1);
    grid->addWidget(
        labelled(tr("Within"),
                 number({"openingSwing", "s", tr("swings within %1 s"), tr("How long it takes to swing open or shut")},
                        NumberSteps{2, 0.1}.over(rangeOf(&Opening::swing_s)), [](Opening& o) -> double& { return o.swing_s; })),
        3, 2);
    grid->addWidget(labelled(tr("Leaf of"), reference(
                                                "openingLeaf", tr("Leaf of"), tr("a wooden door"),
                                                [this] {
                                                    std::vector<std::pair<std::string, std::string>> materials;
                                                    for (const auto& list : {session_.project().materials, materialLibrary()}) {
                                                        for (const Material& known : list) {
                                                            materials.emplace_back(known.id.text, known.name);
                                                        }
                                                    }
                                                    return materials;
                                                },
                                                [](Opening& o) -> std::string& { return o.leaf.text; })),
                    2, 2);
    box->addLayout(grid);
    box->addStretch();
}

void OpeningPage::edit(const QString& what, const QString& gesture, const std::function<void(Opening&)>& change)
{
    session_.editThing<Opening>(what, gesture, change);
}

void OpeningPage::refresh()
{
    ThingForm::refresh();
    const Opening* opening = thing();
    if (opening == nullptr) {
        return;
    }
    const auto& openings = session_.level().openings;
    const auto found = std::find_if(openings.begin(), openings.end(), [&](const auto& o) { return o->id == opening->id; });
    const RoomMap& map = playback_.hearing().world().rooms();
    const auto index = static_cast<std::size_t>(found - openings.begin());
    if (index >= map.holes().size()) {
        return;
    }
    const RoomMap::Hole& hole = map.holes()[index];
    const auto called = [&](std::uint32_t room) {
        return room == RoomMap::outside ? tr("the outside") : QString::fromStdString(session_.level().rooms[room]->name);
    };
    joins_->setText(
        hole.joins()
            ? tr("It joins %1 and %2, over %3 m².").arg(called(hole.behind), called(hole.ahead)).arg(hole.area_m2(), 0, 'f', 1)
            : tr("It joins nothing: %1 lies on both its sides.").arg(called(hole.behind)));
}

} // namespace stone
