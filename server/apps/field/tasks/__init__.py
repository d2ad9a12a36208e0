"""Work on a trial that is given to a person: a due visit, or anything else, with a note and the hours it took."""
