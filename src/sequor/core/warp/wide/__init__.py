"""Wide views: level rays on paper, and the wishes that single lines are made right by."""
