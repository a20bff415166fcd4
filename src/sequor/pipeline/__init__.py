"""From a recipe to what is true of its photo: solved, mapped, framed, retouched."""
