// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/posts/post_form.h"

#include "app/forms/names_of.h"
#include "project/settings.h"

#include <QGridLayout>

namespace stone
{

namespace
{

bool isAlong(const Post& post)
{
    return post.where == Post::Where::walk || post.where == Post::Where::level;
}

bool hasBounds(const Post& post)
{
    return post.expects == Post::Expects::level || post.expects == Post::Expects::above ||
           post.expects == Post::Expects::loudness;
}

bool isInTime(const Post& post)
{
    return post.expects == Post::Expects::by || post.expects == Post::Expects::every || post.expects == Post::Expects::masked;
}

bool isOfOne(const Post& post)
{
    return post.expects != Post::Expects::voices && post.expects != Post::Expects::jumps &&
           post.expects != Post::Expects::loudness;
}

/// Where and what have to fit each other: what is chosen last stays.
void fitWhere(Post& post)
{
    const bool alongOnly = post.expects == Post::Expects::jumps || post.expects == Post::Expects::loudness ||
                           post.expects == Post::Expects::masked;
    const bool noZone = post.expects == Post::Expects::by || post.expects == Post::Expects::every;
    if (alongOnly && !isAlong(post)) {
        post.where = Post::Where::level;
    } else if (noZone && post.where == Post::Where::zone) {
        post.where = Post::Where::spot;
    }
}

void fitExpects(Post& post)
{
    const Post::Where wanted = post.where;
    fitWhere(post);
    if (post.where != wanted) {
        post.where = wanted;
        post.expects = Post::Expects::level;
    }
}

} // namespace

QStringList postExpectsNames()
{
    return {QObject::tr("a level"),
            QObject::tr("to be above another"),
            QObject::tr("to be heard"),
            QObject::tr("not to be heard"),
            QObject::tr("no more voices than"),
            QObject::tr("no jumps over"),
            QObject::tr("a loudness"),
            QObject::tr("to be heard within"),
            QObject::tr("to be heard again within"),
            QObject::tr("nothing masked for longer than")};
}

PostForm::PostForm(Session& session, QWidget* parent) : ThingForm(session, parent)
{
    setObjectName("postForm");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(6);
    auto* head = new QHBoxLayout;
    head->addWidget(labelled(tr("Name"), words("postName", tr("Name"), [](Post& p) -> std::string& { return p.name; })), 1);
    head->addWidget(flag("postOn", tr("on"), tr("Switched off, it is not judged"), [](Post& p) -> bool& { return p.on; }), 0,
                    Qt::AlignBottom);
    box->addLayout(head);
    box->addWidget(makeWhere());
    box->addWidget(makeBounds());
    box->addWidget(labelled(tr("Why, for whoever breaks it"), words("postReason", tr("Why, for whoever breaks it"),
                                                                    [](Post& p) -> std::string& { return p.reason; })));
    box->addStretch();
}

QWidget* PostForm::makeWhere()
{
    auto* part = new QWidget;
    auto* grid = new QGridLayout(part);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(4);
    grid->addWidget(labelled(tr("Where"), choice(
                                              "postWhere", tr("Where"),
                                              {tr("at a spot"), tr("along a walk"), tr("in a zone"), tr("along every walk")},
                                              [](const Post& p) { return static_cast<int>(p.where); },
                                              [](Post& p, int index) {
                                                  p.where = static_cast<Post::Where>(index);
                                                  fitExpects(p);
                                              })),
                    0, 0, 1, 2);
    const auto place = [&](const char* name, const QString& label, int axis) {
        QWidget* field = labelled(
            label, number({name, QStringLiteral("m"), label.toLower() + QStringLiteral(" %1 m"), tr("Of the feet")},
                          NumberSteps{2, 0.1}.over(ranges::metres), [axis](Post& p) -> double& { return p.at[axis]; }));
        showWhen(field, [](const Post& p) { return p.where == Post::Where::spot; });
        return field;
    };
    grid->addWidget(place("postEast", tr("East"), 0), 1, 0);
    grid->addWidget(place("postNorth", tr("North"), 1), 1, 1);
    grid->addWidget(place("postHeight", tr("Height"), 2), 1, 2);
    auto* heading =
        labelled(tr("Looks towards"),
                 number({"postHeading", QString::fromUtf8("°"), tr("looks towards %1°"), tr("0: north; for gazes")},
                        NumberSteps{0, 5.0}.over(ranges::degrees), [](Post& p) -> double& { return p.heading_deg; }));
    showWhen(heading, [](const Post& p) { return p.where == Post::Where::spot; });
    grid->addWidget(heading, 0, 2);
    auto* walk =
        labelled(tr("Walk"), reference(
                                 "postWalk", tr("Walk"), tr("no walk"), [this] { return namesOf(session_.level().walks); },
                                 [](Post& p) -> std::string& { return p.walk.text; }));
    showWhen(walk, [](const Post& p) { return p.where == Post::Where::walk; });
    grid->addWidget(walk, 0, 2);
    auto* zone =
        labelled(tr("Zone"), reference(
                                 "postZone", tr("Zone"), tr("no zone"), [this] { return namesOf(session_.level().zones); },
                                 [](Post& p) -> std::string& { return p.zone.text; }));
    showWhen(zone, [](const Post& p) { return p.where == Post::Where::zone; });
    grid->addWidget(zone, 0, 2);
    auto* from =
        labelled(tr("From"), number({"postFrom", QStringLiteral("s"), tr("from %1 s"), tr("Where its stretch begins")},
                                    NumberSteps{1, 1.0}.over(ranges::seconds), [](Post& p) -> double& { return p.from_s; }));
    auto* to = labelled(tr("To"), number({"postTo", QStringLiteral("s"), tr("to %1 s"), tr("0: to the end")},
                                         NumberSteps{1, 1.0}.over(ranges::seconds), [](Post& p) -> double& { return p.to_s; }));
    showWhen(from, isAlong);
    showWhen(to, isAlong);
    grid->addWidget(from, 1, 0);
    grid->addWidget(to, 1, 1);
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    return part;
}

QWidget* PostForm::makeBounds()
{
    auto* part = new QWidget;
    auto* grid = new QGridLayout(part);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(4);
    const auto emitters = [this] { return namesOf(session_.level().emitters); };
    auto* whose = labelled(tr("Whose"), reference("postEmitter", tr("Whose"), tr("everything together"), emitters,
                                                  [](Post& p) -> std::string& { return p.emitter.text; }));
    showWhen(whose, isOfOne);
    grid->addWidget(whose, 0, 0, 1, 2);
    grid->addWidget(labelled(tr("Expected"), choice(
                                                 "postExpects", tr("Expected"), postExpectsNames(),
                                                 [](const Post& p) { return static_cast<int>(p.expects); },
                                                 [](Post& p, int index) {
                                                     p.expects = static_cast<Post::Expects>(index);
                                                     fitWhere(p);
                                                 })),
                    0, 2, 1, 2);
    auto* other = labelled(tr("Above whom"), reference("postOther", tr("Above whom"), tr("all others together"), emitters,
                                                       [](Post& p) -> std::string& { return p.other.text; }));
    showWhen(other, [](const Post& p) { return p.expects == Post::Expects::above; });
    grid->addWidget(other, 1, 0);
    auto* least = labelled(tr("Least"), number(
                                            {"postLeast", QStringLiteral("dB"), tr("least %1 dB"), tr("−200: none")},
                                            NumberSteps{1, 1.0}.over(rangeOf(&Post::least_db)),
                                            [](Post& p) -> double& { return p.least_db; },
                                            Partner<Post>{[](Post& p) -> double& { return p.most_db; }, true}));
    showWhen(least, hasBounds);
    grid->addWidget(least, 1, 1);
    auto* most = labelled(tr("Most"),
                          number(
                              {"postMost", QStringLiteral("dB"), tr("most %1 dB"), tr("100: none")},
                              NumberSteps{1, 1.0}.over(rangeOf(&Post::most_db)), [](Post& p) -> double& { return p.most_db; },
                              Partner<Post>{[](Post& p) -> double& { return p.least_db; }, false}));
    showWhen(most, [](const Post& p) { return hasBounds(p) || p.expects == Post::Expects::jumps; });
    grid->addWidget(most, 1, 2);
    auto* tolerance = labelled(
        tr("Tolerance"),
        number({"postTolerance", QStringLiteral("dB"), tr("tolerance %1 dB"), tr("By which a bound may be missed")},
               NumberSteps{1, 0.5}.over(rangeOf(&Post::tolerance_db)), [](Post& p) -> double& { return p.tolerance_db; }));
    showWhen(tolerance, [](const Post& p) { return hasBounds(p) || p.expects == Post::Expects::jumps; });
    grid->addWidget(tolerance, 1, 3);
    auto* within = labelled(tr("Within"), number({"postWithin", QStringLiteral("s"), tr("within %1 s"), tr("Seconds")},
                                                 NumberSteps{1, 1.0}.over(rangeOf(&Post::within_s)),
                                                 [](Post& p) -> double& { return p.within_s; }));
    showWhen(within, isInTime);
    grid->addWidget(within, 1, 1);
    auto* count = new NumberField(QString(), rangeOf(&Post::count), 0, 1.0);
    count->setObjectName("postCount");
    shows_.push_back([count](const Post& shown) { count->present(shown.count); });
    connect(count, &NumberField::valueEdited, this, [this](double value) {
        edit(tr("no more than %1").arg(value), QStringLiteral("postCount"),
             [&](Post& p) { p.count = static_cast<int>(std::lround(value)); });
    });
    auto* voices = labelled(tr("Voices"), count);
    showWhen(voices, [](const Post& p) { return p.expects == Post::Expects::voices; });
    grid->addWidget(voices, 1, 1);
    for (int column = 0; column < 4; ++column) {
        grid->setColumnStretch(column, 1);
    }
    return part;
}

void PostForm::show(const PostId& id)
{
    shown_ = id;
    setEnabled(thing() != nullptr);
    refresh();
}

void PostForm::edit(const QString& what, const QString& gesture, const std::function<void(Post&)>& change)
{
    const Post* found = thing();
    if (found == nullptr) {
        return;
    }
    Post post = *found;
    change(post);
    session_.edit(withLevel(session_.project(), session_.levelId(), [&](Level& level) { level.posts.put(post); }),
                  tr("%1: %2").arg(QString::fromStdString(found->name), what),
                  gesture.isEmpty() ? gesture : gesture + QString::fromStdString(post.id.text));
}

} // namespace stone
