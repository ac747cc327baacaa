#pragma once

#include "app/forms/shape_fields.h"
#include "app/forms/thing_form.h"
#include "app/session/playback.h"

#include <QLabel>

namespace stone
{

/// The selected zone on the bench: where it is, how it nests, and what belongs to it.
class ZonePage : public ThingForm<Zone>
{
    Q_OBJECT

public:
    ZonePage(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;
    /// What of it reaches the ears now.
    void refreshShare();

signals:
    /// A corner-by-corner drawing of its outline is wanted.
    void drawWanted();
    /// Something that belongs to it is to be looked at.
    void emitterWanted(const EmitterId& id);

protected:
    const Zone* thing() const override { return session_.zone(); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Zone&)>& change) override;

private:
    void refreshMembers();

    Playback& playback_;
    ShapeFields* shape_;
    QLabel* share_;
    QLabel* members_;
};

} // namespace stone
