"""Which drawn figure stands for which animal, and how large it is drawn: by body form, never by colour or state."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jarbloom.core.model.species import Species
from jarbloom.views.drawn.axes import r1

MARGIN = 2  # of a drawing's box, both edges together: its line is drawn over the edge
SMALL = 44.0  # px; below it rays and plates are left out


@dataclass(frozen=True)
class Form:
    """The box of a drawing in its own units; the animal's length is its width, or its height."""

    width: int
    height: int
    upright: bool = False

    @property
    def length(self) -> int:
        return (self.height if self.upright else self.width) - MARGIN


# The files are static/figures/<name>.svg; heads look left.
FORMS: Mapping[str, Form] = {
    "tall-disc": Form(106, 126, upright=True),
    "deep-slab": Form(122, 92),
    "pencil": Form(122, 28),
    "torpedo": Form(122, 50),
    "slender-shoaler": Form(122, 52),
    "eel": Form(122, 42),
    "armoured-catfish": Form(122, 74),
    "barbelled-catfish": Form(122, 58),
    "sucker-catfish": Form(122, 58),
    "labyrinth": Form(122, 106),
    "livebearer": Form(122, 62),
    "puffer": Form(122, 90),
    "goby": Form(122, 52),
    "blenny": Form(122, 52),
    "reef-butterfly": Form(122, 106),
    "reef-clown": Form(122, 78),
    "seahorse": Form(62, 124, upright=True),
    "moray": Form(122, 64),
    "shrimp": Form(122, 70),
    "cleaner-prawn": Form(122, 86),
    "crab": Form(122, 84),
    "hermit": Form(122, 94),
    "crayfish": Form(122, 64),
    "spiral-snail": Form(102, 82),
    "flat-snail": Form(106, 86),
    "clam": Form(122, 80),
    "star": Form(106, 100),
    "urchin": Form(122, 86),
    "polyp-mat": Form(122, 62),
    "branching-coral": Form(122, 104, upright=True),
    "brain-coral": Form(122, 76),
    "leaf-coral": Form(122, 90),
    "anemone": Form(114, 90),
    "leather-coral": Form(114, 92),
    "frog": Form(122, 78),
    "cucumber": Form(122, 44),
    "moss": Form(122, 52),
    "stem-plant": Form(76, 124, upright=True),
    "rosette-plant": Form(116, 104, upright=True),
    "floating-plant": Form(122, 88),
}

# By genus, since kin look alike; a genus not named here is drawn as its class of body is.
_GENERA = {
    "tall-disc": "Pterophyllum Monodactylus Pterapogon Zebrasoma",
    "deep-slab": "Symphysodon Heros Astronotus Metynnis Carnegiella Carassius Helostoma Scatophagus Mesonauta Rocio "
    "Andinoacara Amphilophus Cyphotilapia Pygocentrus Lepomis Barbonymus Gymnocorymbus Pethia Parambassis "
    "Pseudetroplus Puntigrus Thorichthys Amatitlania Cleithracara Altolamprologus Siganus Ctenochaetus Acanthurus "
    "Paracanthurus Odonus Balistoides Acreichthys Sphaeramia Trichopodus Centropyge",
    "pencil": "Nannostomus Nomorhamphus Dermogenys Farlowella Rineloricaria Dunckerocampus Kryptopterus Oxycirrhites "
    "Gnathonemus",
    "torpedo": "Melanotaenia Glossolepis Marosatherina Danio Devario Tanichthys Rasbora Sahyadria Balantiocheilos "
    "Toxotes Barbodes Epalzeorhynchos Crossocheilus Cyprinus Gyrinocheilus Pantodon Osteoglossum Copella Oryzias "
    "Aphyosemion Fundulopanchax Epiplatys Aplocheilus Jordanella Iriatherina Pseudomugil Pseudocheilinus "
    "Pseudocheilinops Halichoeres Macropharyngodon Wetmorella Cirrhilabrus Paracheilinus Chromis Pseudanthias "
    "Nemateleotris Cromileptes Sciaenochromis Pseudotropheus Labidochromis Maylandia Melanochromis Iodotropheus "
    "Chindongo Aulonocara Tropheus Neolamprologus Julidochromis Apistogramma Mikrogeophagus Pelvicachromis Hemichromis "
    "Dicrossus Dario Badis Gramma Assessor Pictichromis Pseudochromis Neocirrhites",
    "eel": "Pangio Misgurnus Acantopsis Erpetoichthys Apteronotus Mastacembelus Macrognathus Gobioides Polypterus "
    "Pholidichthys",
    "armoured-catfish": "Corydoras Brochis",
    "barbelled-catfish": "Synodontis Pimelodus Platydoras Ariopsis Pangasianodon Phractocephalus Botia Chromobotia "
    "Ambastaia Petruichthys",
    "sucker-catfish": "Otocinclus Ancistrus Chaetostoma Panaqolus Hypancistrus Pterygoplichthys Baryancistrus Sewellia "
    "Yaoshania",
    "labyrinth": "Betta Trichogaster Trichopsis Macropodus Sphaerichthys Parosphromenus Pterois Dendrochirus",
    "livebearer": "Poecilia Xiphophorus Heterandria",
    "puffer": "Carinotetraodon Dichotomyctere Canthigaster Diodon",
    "goby": "Brachygobius Stigmatogobius Tateurndina Periophthalmus Cryptocentrus Elacatinus Gobiodon Valenciennea "
    "Amblyeleotris Stonogobiops Koumansetta Synchiropus Opistognathus",
    "frog": "Hymenochirus Ambystoma",
    "cucumber": "Holothuria",
    "blenny": "Salarias Ecsenius Acanthemblemaria",
    "reef-butterfly": "Chelmon",
    "reef-clown": "Amphiprion Chrysiptera Dascyllus",
    "seahorse": "Hippocampus",
    "moray": "Echidna",
    "shrimp": "Neocaridina Caridina Atyopsis Atya Palaemon Thor Alpheus",
    "cleaner-prawn": "Lysmata Stenopus Hymenocera",
    "crab": "Limnopilos Parathelphusa Perisesarma Mithraculus Neopetrolisthes Geosesarma Minuca",
    "hermit": "Clibanarius Paguristes",
    "crayfish": "Cambarellus Procambarus Odontodactylus",
    "spiral-snail": "Melanoides Tylomelania Anentome Physella Cerithium Nassarius Conomurex Trochus Turbo Lithopoma "
    "Neritina Vittina Clithon",
    "flat-snail": "Planorbella Pomacea",
    "clam": "Tridacna",
    "star": "Astropecten Ophiocoma Fromia Protoreaster",
    "urchin": "Mespilia Diadema Lytechinus",
    "polyp-mat": "Pachyclavularia Discosoma Ricordea Zoanthus Caulastraea Duncanopsammia Goniopora Galaxea",
    "branching-coral": "Acropora Seriatopora Capnella Antillogorgia Sinularia",
    "brain-coral": "Trachyphyllia Micromussa Plerogyra",
    "leaf-coral": "Montipora",
    "anemone": "Entacmaea Phymanthus Stichodactyla Fimbriaphyllia Euphyllia Xenia Sabellastarte",
    "leather-coral": "Sarcophyton",
}
_BY_GENUS = {genus: name for name, genera in _GENERA.items() for genus in genera.split()}
_BY_BODY = {"eel": "eel", "elongated": "torpedo", "torpedo": "slender-shoaler", "deep": "deep-slab",
            "shell": "spiral-snail", "crab": "crab", "star": "star", "coral": "branching-coral"}  # fmt: skip
_BY_GROUP = {"shrimp": "shrimp", "anemone": "anemone"}


def form_of(kind: Species) -> str:
    """The name of the figure of a species; of one that no table names, by its class."""
    return _BY_GENUS.get(kind.genus) or _BY_GROUP.get(kind.group) or _BY_BODY[kind.body]


@dataclass(frozen=True)
class Figure:
    """A figure in px: its box round the middle, whether rays and plates are drawn, and where it looks."""

    form: str
    width: float
    height: float
    detailed: bool
    flip: int = 1


def figure_of(kind: Species, length_px: float, flip: int = 1) -> Figure:
    """The figure of an animal of so many px from nose to tail; `flip` -1: it looks to the right."""
    return drawn(form_of(kind), length_px, flip)


def drawn(name: str, length_px: float, flip: int = 1) -> Figure:
    form = FORMS[name]
    scale = length_px / form.length
    return Figure(name, r1(form.width * scale), r1(form.height * scale), length_px >= SMALL, flip)
