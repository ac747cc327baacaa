// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/shape_fields.h"
#include "app/forms/thing_form.h"
#include "app/session/playback.h"

#include <QGridLayout>

namespace stone
{

/// Fields that show and change the emitter on the bench, and all that are selected with it.
class EmitterForm : public ThingForm<Emitter>
{
    Q_OBJECT

public:
    EmitterForm(Session& session, Playback& playback, QWidget* parent = nullptr);

protected:
    const Emitter* thing() const override { return session_.subject(); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Emitter&)>& change) override;

    /// A number of one of the emitter's parts, labelled, over the document's range.
    template <class Part> QWidget* part(const QString& label, Part EmitterSettings::*which, double Part::*member,
                                        const NumberWords& words, const NumberSteps& steps,
                                        const std::optional<Partner<Emitter>>& partner = {})
    {
        return labelled(label, number(
                                   words, steps.over(rangeOf(member)),
                                   [which, member](Emitter& e) -> double& { return (e.*which).*member; }, partner));
    }
    /// A shape of the emitter.
    ShapeFields* shape(const QString& prefix, std::function<Shape&(Emitter&)> member);
    QComboBox* sound(const char* name, const QString& label, const QString& none, std::function<std::string&(Emitter&)> member);
    QComboBox* zone(const char* name, const QString& none);
    /// A list of starting points: names with what they do. Taking one is one step of the history.
    QComboBox* startingPoints(const char* name, const std::vector<std::pair<QString, QString>>& points,
                              std::function<void(Emitter&, std::size_t)> take);

    /// Puts widgets side by side over the form's width.
    void row(std::initializer_list<QWidget*> cells);
    /// Puts widgets over each other, in one cell of a row.
    static QWidget* stacked(std::initializer_list<QWidget*> cells);
    /// A small heading over what follows.
    void head(const QString& text);

    Playback& playback_;
    QVBoxLayout* box_;
};

} // namespace stone
