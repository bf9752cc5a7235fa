"""Reading pictures and preparing their tones."""

from nebrel.core.picture.decode import ReadLimits
from nebrel.core.picture.picture import Picture, SourceFacts
from nebrel.core.picture.read import read_facts, read_picture
from nebrel.core.picture.resample import shrink_to

__all__ = ["Picture", "ReadLimits", "SourceFacts", "read_facts", "read_picture", "shrink_to"]
