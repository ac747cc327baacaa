// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/page.h"
#include "app/session/session.h"
#include "app/theme/labels.h"
#include "app/widgets/number_field.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include <algorithm>
#include <functional>
#include <optional>
#include <vector>

namespace stone
{

/// What a number field says of itself.
struct NumberWords {
    const char* name; ///< of the widget
    QString unit;
    QString what; ///< for the history, with %1 for the value
    QString help;
};

struct NumberRange {
    double least;
    double most;
    int decimals;
    double step;
    double scale = 1.0; ///< shown number for 1 of the document's
};

/// How a number is shown whose range is the document's.
struct NumberSteps {
    int decimals;
    double step;
    double scale = 1.0; ///< shown number for 1 of the document's

    NumberRange over(Range range) const { return {scale * range.least, scale * range.most, decimals, step, scale}; }
};

/// The other end of a pair that a number belongs to, as the most to a least. An end that would pass the other takes it along,
/// in the same step.
template <class Thing> struct Partner {
    std::function<double&(Thing&)> end;
    bool above;         ///< it is the upper end
    double apart = 0.0; ///< the two stay at least so far apart, in the document's unit

    void follow(Thing& thing, double value) const
    {
        double& other = end(thing);
        other = above ? std::max(other, value + apart) : std::min(other, value - apart);
    }
};

/// Fields that show and change one thing of the document. Each knows what it is about by a function; edits go through the
/// session's history. A field that has no effect is out of reach and says why.
template <class Thing> class ThingForm : public Page
{
public:
    /// Shows the thing as it is now.
    void refresh() override
    {
        if (const Thing* shown = thing()) {
            for (const auto& show : shows_) {
                show(*shown);
            }
        }
    }

protected:
    explicit ThingForm(Session& session, QWidget* parent = nullptr) : Page(parent), session_(session) {}

    /// Null while there is none.
    virtual const Thing* thing() const = 0;
    virtual void edit(const QString& what, const QString& gesture, const std::function<void(Thing&)>& change) = 0;

    NumberField* number(const NumberWords& words, const NumberRange& range, std::function<double&(Thing&)> member,
                        std::optional<Partner<Thing>> partner = {})
    {
        auto* field = new NumberField(words.unit, range.least, range.most, range.decimals, range.step);
        field->setObjectName(words.name);
        field->setToolTip(words.help);
        field->setAccessibleDescription(words.help);
        shows_.push_back([field, member, scale = range.scale](const Thing& shown) {
            Thing copy = shown;
            field->present(member(copy) * scale);
        });
        connect(field, &NumberField::valueEdited, this,
                [this, field, member, partner, what = words.what, scale = range.scale](double value) {
                    edit(what.arg(value), field->objectName(), [&](Thing& t) {
                        member(t) = value / scale;
                        if (partner) {
                            partner->follow(t, value / scale);
                        }
                    });
                });
        connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
        return field;
    }

    QLineEdit* words(const char* name, const QString& label, std::function<std::string&(Thing&)> member)
    {
        auto* field = new QLineEdit;
        field->setObjectName(name);
        field->setAccessibleName(label);
        shows_.push_back([field, member](const Thing& shown) {
            if (!field->hasFocus()) {
                Thing copy = shown;
                field->setText(QString::fromStdString(member(copy)));
            }
        });
        connect(field, &QLineEdit::editingFinished, this, [this, field, label, member] {
            if (field->isModified()) {
                field->setModified(false);
                edit(label.toLower(), {}, [&](Thing& t) { member(t) = field->text().trimmed().toStdString(); });
            }
        });
        return field;
    }

    QCheckBox* flag(const char* name, const QString& label, const QString& help, std::function<bool&(Thing&)> member)
    {
        auto* box = new QCheckBox(label);
        box->setObjectName(name);
        box->setToolTip(help);
        shows_.push_back([box, member](const Thing& shown) {
            Thing copy = shown;
            box->setChecked(member(copy));
        });
        connect(box, &QCheckBox::clicked, this, [this, label, member](bool on) {
            edit(on ? QObject::tr("%1 on").arg(label) : QObject::tr("%1 off").arg(label), {},
                 [&](Thing& t) { member(t) = on; });
        });
        return box;
    }

    QComboBox* choice(const char* name, const QString& label, const QStringList& words, std::function<int(const Thing&)> get,
                      std::function<void(Thing&, int)> set)
    {
        auto* box = new QComboBox;
        box->setObjectName(name);
        box->setAccessibleName(label);
        box->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        box->addItems(words);
        shows_.push_back([box, get](const Thing& shown) {
            const QSignalBlocker quiet(box);
            box->setCurrentIndex(get(shown));
        });
        connect(box, &QComboBox::activated, this,
                [this, box, set](int index) { edit(box->itemText(index), {}, [&](Thing& t) { set(t, index); }); });
        return box;
    }

    /// A choice among things that the project has by now: `list` gives their ids and names, an empty id is `none`.
    QComboBox* reference(const char* name, const QString& label, const QString& none,
                         const std::function<std::vector<std::pair<std::string, std::string>>()>& list,
                         std::function<std::string&(Thing&)> member)
    {
        auto* box = new QComboBox;
        box->setObjectName(name);
        box->setAccessibleName(label);
        box->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        shows_.push_back([box, none, list, member](const Thing& shown) {
            const QSignalBlocker quiet(box);
            box->clear();
            box->addItem(none, QString());
            for (const auto& [id, called] : list()) {
                box->addItem(QString::fromStdString(called), QString::fromStdString(id));
            }
            Thing copy = shown;
            const std::string& id = member(copy);
            if (!id.empty() && box->findData(QString::fromStdString(id)) < 0) {
                box->addItem(QObject::tr("%1, which is gone").arg(QString::fromStdString(id)), QString::fromStdString(id));
            }
            box->setCurrentIndex(box->findData(QString::fromStdString(id)));
        });
        connect(box, &QComboBox::activated, this, [this, box, label, member](int index) {
            edit(label.toLower() + ' ' + box->itemText(index), {},
                 [&](Thing& t) { member(t) = box->itemData(index).toString().toStdString(); });
        });
        return box;
    }

    /// What can carry something in the level: its Roamers, or the parts of its geometry.
    std::vector<std::pair<std::string, std::string>> carriers(Riding::On on) const
    {
        std::vector<std::pair<std::string, std::string>> found;
        const Mesh* mesh = session_.loadedLevel().mesh();
        if (on == Riding::On::node && mesh != nullptr) {
            for (const Mesh::Node& node : mesh->nodes) {
                found.emplace_back(node.name, node.name);
            }
        }
        for (const auto& emitter : session_.level().emitters) {
            if (on == Riding::On::roamer && emitter->kind == EmitterKind::roamer) {
                found.emplace_back(emitter->id.text, emitter->name);
            }
        }
        return found;
    }

    QPushButton* button(const char* name, const QString& text, const QString& help, const std::function<void()>& act)
    {
        auto* made = new QPushButton(text);
        made->setObjectName(name);
        made->setToolTip(help);
        connect(made, &QPushButton::clicked, this, act);
        return made;
    }

    /// `why`: empty while the widget has an effect, else the reason that it has none.
    void allow(QWidget* widget, std::function<QString(const Thing&)> why)
    {
        const QString help = widget->toolTip();
        shows_.push_back([widget, help, why](const Thing& shown) {
            const QString reason = why(shown);
            widget->setEnabled(reason.isEmpty());
            widget->setToolTip(reason.isEmpty() ? help : QObject::tr("No effect: %1").arg(reason));
        });
    }

    /// Hides what does not belong to the thing as it is.
    void showWhen(QWidget* widget, std::function<bool(const Thing&)> when)
    {
        shows_.push_back([widget, when](const Thing& shown) { widget->setVisible(when(shown)); });
    }

    /// Puts a label over a field.
    static QWidget* labelled(const QString& label, QWidget* field)
    {
        auto* both = new QWidget;
        auto* box = new QVBoxLayout(both);
        box->setContentsMargins(0, 0, 0, 0);
        box->setSpacing(1);
        box->addWidget(theme::caption(label));
        box->addWidget(field);
        if (field->accessibleName().isEmpty()) {
            field->setAccessibleName(label);
        }
        return both;
    }

    Session& session_;
    std::vector<std::function<void(const Thing&)>> shows_;
};

} // namespace stone
