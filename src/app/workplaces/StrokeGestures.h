#pragma once
// The brushes for masks and shapes and the pen for lines: a stroke grows with every place that the hand comes to. While it does, it is only shown (the rebuild
// gets it beside the document), so a move costs the same however much was painted before; letting go makes it one edit.
#include "app/session/Brush.h"
#include "app/session/Session.h"
#include "app/stage/Gesture.h"

namespace seedloom::app {

/// What both have in common: a list in the setting `strokes` of the chosen node that gets one more entry.
class StrokeGesture : public Gesture {
public:
    explicit StrokeGesture(Session& session) : session_(session) {}
    void begin(Vec3 at, Vec3 normal) override;
    void move(Vec3 at, Vec3 normal) override;
    void end() override;

protected:
    virtual Json newStroke() const = 0;
    virtual Json& placesOf(Json& stroke) const = 0;
    virtual Json place(Vec3 at, Vec3 normal) const = 0;
    /// Metres that the hand must have gone for another place.
    virtual double finest() const = 0;
    /// Whether the stroke is one at all.
    virtual bool isWhole() const { return true; }
    void add(Vec3 at, Vec3 normal);

    Session& session_;
    std::string node_;  ///< empty: there is none to draw for
    Json stroke_;

private:
    Vec3 last_{};
};

class PaintGesture : public StrokeGesture {
public:
    /// `brush` must outlive the stroke.
    PaintGesture(Session& session, const Brush& brush) : StrokeGesture(session), brush_(brush) {}

protected:
    Json newStroke() const override;
    Json& placesOf(Json& stroke) const override { return stroke["points"]; }
    Json place(Vec3 at, Vec3 normal) const override;
    double finest() const override { return brush_.radius / 5; }  // as fine as the brush can show

    Brush brush_;
};

/// Takes along what was under the brush: only where it began and where it is now counts.
class GrabGesture : public PaintGesture {
public:
    using PaintGesture::PaintGesture;
    void move(Vec3 at, Vec3 normal) override;

protected:
    bool isWhole() const override { return stroke_.at("points").size() == 2; }
};

class DrawGesture : public StrokeGesture {
public:
    DrawGesture(Session& session, double metresPerPixel) : StrokeGesture(session), finest_(metresPerPixel * 3) {}

protected:
    Json newStroke() const override { return Json::array(); }
    Json& placesOf(Json& stroke) const override { return stroke; }
    Json place(Vec3 at, Vec3 normal) const override;
    double finest() const override { return finest_; }  // three pixels are as fine as a hand draws

private:
    double finest_;
};

}  // namespace seedloom::app
