"""Long work that workers do in the background: asked for in rows, which tell what came of it."""
