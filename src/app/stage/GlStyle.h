#pragma once
// How a batch is drawn, and what the shader is told of a mesh.
#include "scene/DrawScene.h"

#include <QtGui/QColor>
#include <QtGui/QOpenGLContext>
#include <QtGui/QOpenGLFunctions>
#include <QtGui/QVector3D>
#include <QtGui/QVector4D>

namespace seedloom::app {

struct Style {
    float lit = 0;
    QVector4D tint;
    float nearer = 0, pointSize = 1, fade = 0, opacity = 1;
    float shadow = 0;  ///< the vertices say themselves how far they can be seen
};

inline QVector3D vectorOf(const QColor& c) { return {float(c.redF()), float(c.greenF()), float(c.blueF())}; }

/// What the fragment shader takes for a shading; differences are drawn like attributes.
inline int shaderOf(const DrawScene& mesh) {
    if (!mesh.legend.problem.empty()) return int(Shading::clay);
    return int(mesh.shading == Shading::difference ? Shading::attribute : mesh.shading == Shading::look ? Shading::clay : mesh.shading);
}
/// The same for a shape of copies: copies that have the colours of values are shaded as such.
inline int shaderFor(const DrawScene& whole, const DrawScene& shape) { return whole.shading == Shading::attribute ? shaderOf(whole) : shaderOf(shape); }

/// What is no copy stands where it is: the values for all that brings no instances. To be called anew after instances were drawn, which leave them undefined.
inline void standAlone() {
    auto* gl = QOpenGLContext::currentContext()->functions();
    gl->glVertexAttrib3f(4, 1, 0, 0);
    gl->glVertexAttrib3f(5, 0, 1, 0);
    gl->glVertexAttrib3f(6, 0, 0, 1);
    gl->glVertexAttrib3f(7, 0, 0, 0);
    gl->glVertexAttrib4f(8, 0, 0, 0, 0);
}

/// Curves are ink, and so follow the theme, unless their own colours mean something.
inline bool linesCarryColours(const DrawScene& mesh) { return mesh.shading == Shading::difference || (mesh.faceCount == 0 && !mesh.legend.title.empty()); }

}  // namespace seedloom::app
