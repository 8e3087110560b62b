"""What people head the columns of their tables with, in several languages, and how well a heading fits a field."""

from __future__ import annotations

import re
from functools import lru_cache

from botin.core.catalog.naming import unaccented

_WORDS: dict[str, str] = {
    "number": "no|nr|num|number|numbers|card no|card nr|card number|card num|card #|#|checklist no|"
    "checklist number|id|card id|cardno|card code|cn|nummer|kartennummer|karten nr|kartennr|lfd nr|numero|num|n|"
    "n carte|no carte|numero de carte|numero carta|carta no|numero de carta|n carta|kaartnr|kaartnummer|kaart nr|"
    "kortnummer|kort nr|cislo|cislo karty|numer|numer karty|numero da carta|sorszam|№|номер",
    "name": "name|names|player|players|athlete|athletes|rider|riders|subject|subjects|player name|card name|"
    "full name|who|who is on it|on the card|description|card title|title|player s|name s|card subject|pictured|"
    "featured|sailor|curler|fencer|archer|gymnast|wrestler|boxer|jockey|skier|climber|"
    "driver|skater|rower|runner|swimmer|racer|cyclist|pilot|competitor|personality|card description|"
    "spieler|spielername|fahrer|fahrerin|sportler|athlet|person|motiv|bezeichnung|joueur|nom|nom du joueur|"
    "athlete|coureur|pilote|sujet|jugador|nombre|nombre del jugador|atleta|corredor|piloto|giocatore|nome|"
    "nome giocatore|corridore|speler|naam|renner|rijder|spelersnaam|spelare|namn|spiller|navn|zawodnik|nazwisko|"
    "imie i nazwisko|hrac|jmeno|jogador|nome do jogador|pelaaja|nimi|jatekos|nev",
    "short": "sp|ssp|short print|short prints|is sp|sp ssp|sp card|kurzdruck",
    "marks": "status|marks|mark|attributes|attribute|attr|designation|flags|tags|special|rc sp|card marks|merkmale",
    "first_name": "first|first name|given name|forename|vorname|prenom|nombre de pila|voornaam|fornavn|fornamn|"
    "imie|krestni jmeno",
    "last_name": "last|last name|surname|family name|nachname|familienname|zuname|nom de famille|apellido|"
    "apellidos|achternaam|efternamn|efternavn|cognome|prijmeni",
    "team": "tm|team|teams|club|clubs|squad|team name|club name|affiliation|team s|crew|crew club|team club|"
    "club team|home club|home team|rides for|plays for|races for|franchise|nickname|team nickname|mascot|country|"
    "nation|school|stable|outfit|"
    "side|verein|mannschaft|klub|equipe|rennstall|nationalteam|equipo|club equipo|squadra|societa|ploeg|"
    "county|gym|dojo|heya|lodge|academy|college|university|federation|association|represents|representing|"
    "org|organisation|organization|vereniging|lag|klubb|forening|hold|druzyna|tym|druzstvo|clube|time|seura|csapat",
    "team_place": "city|team city|city name|club city|town|stadt|ville|ciudad|citta",
    "unit": "unit|units|per|per what|odds unit|einheit|unite|unidad|eenheid",
    "prefix": "prefix|number prefix|card prefix|code prefix|praefix",
    "section": "section|set|subset|sub set|insert|inserts|insert set|insert name|card set|set name|checklist|"
    "category|series|which set|part of|belongs to|belongs|set subset|group set|card type|program|satz|serie|"
    "kategorie|"
    "abschnitt|reihe|teilserie|sammlung|einleger|ensemble|categorie|collection|coleccion|categoria|insercion|"
    "sezione|inserto|reeks|deelset|set naam|subserie|delserie|kategori|zestaw|seria|podzestaw|sada|podsada|"
    "colecao|secao|type|kind of card|applies to|found on|of set|for set|group|gruppe|groupe|grupo|which part",
    "rookie": "r|rc|deb|rookie|rookies|rookie card|r c|rookie s|first year|first year card|is rookie|rookie rc|"
    "rc rookie|debut|debuet|newcomer|neuling|debutant|debuetant|recrue|novato|novata|debutante|esordiente|nieuweling|"
    "debutantkaart|debutkort|debiutant|debiut|novacek|estreante|estreia",
    "run": "sn|s n|stamped|stamp|run|print run|numbered|serial|serial numbered|serial number|#'d|#d|numbering|"
    "numbered to|#'d to|d to|# d to|copies|seq|sequence|/|# to|limited to|limited|edition|limit|lim|"
    "edition size|limitierung|limitation|limitacion|auflage|limitiert|"
    "limitiert auf|nummeriert auf|nummerierung|tirage|numerotee a|numerote a|numerotation|tirada|numerada a|"
    "numeracion|tiratura|numerata a|oplage|gelimiteerd|gelimiteerd tot|upplaga|oplag|naklad|tiragem|numerada ate|"
    "how many made|number made|made|out of|numbered out of|# made|stamped to|limited run|copies made|copies of each",
    "parallel": "variation|variations|var|par|parallel|parallels|finish|finishes|version|versions|color|colour|"
    "colors|colours|"
    "parallel name|foil|parallel finish|coating|treatment|refinish|parallele|parallelen|farbe|farbvariante|"
    "variante|ausfuehrung|couleur|finition|paralela|paralelas|color paralela|acabado|colore|finitura|parallela|"
    "variant|varianten|kleur|afwerking|farg|farve|kolor|odmiana|barva|cor|variation name",
    "odds": "odds|ratio|pull rate|pull odds|insertion|insertion rate|stated odds|pack odds|odds 1 x|odds packs|"
    "odds 1|1 x packs|packs per hit|one in|1 in|chance|chances|rate|odds per pack|frequency|quote|quoten|"
    "wahrscheinlichkeit|ziehchance|haeufigkeit|cote|cotes|probabilite|frequence|probabilidad|probabilidades|"
    "frecuencia|probabilita|frequenza|kans|kansen|oddsen|szansa|sance|probabilidade",
    "note": "note|notes|comment|comments|remark|remarks|bemerkung|bemerkungen|anmerkung|hinweis|remarque|"
    "remarques|nota|notas|note s|opmerking|opmerkingen|anmarkning|uwagi|poznamka|observacao",
    "group": "group|odds group|tier",
    "back_code": "back code|code|back|code on back|rueckseitencode",
    "cue": "cue|how to tell|identifier|how to tell it|erkennung|erkennungsmerkmal",
    "kind": "kind|type|card type|type of section|section type|set type",
    "count": "cards in set|number of cards|set size|size|card count|total cards|cards in section|karten im set|"
    "anzahl karten|nombre de cartes|numero de cartas|aantal kaarten|# of cards|no of cards",
    "format": "format|formats|box type|product type|product format|box|configuration|packaging|sku|pack type|"
    "boxart|verpackung|produkt|ausfuehrung box|formato|formaat|doos|doostype|type de boite|tipo de caja|boks|"
    "opakowanie|box format|found in|available in",
    "packs_per_box": "packs per box|packs box|packs|packs in a box|packs in box|no of packs|# of packs|"
    "number of packs|paeckchen pro box|paeckchen je box|tuetchen|tueten|tuetchen pro display|"
    "tueten pro display|packungen pro display|packungen pro box|packungen je box|packs pro box|"
    "packs je box|tuetchen pro box|packungen|paeckchen|paquets par boite|pochettes par boite|paquets|"
    "sobres por caja|sobres|paquetes por caja|buste per box|bustine per box|pakjes per doos|pakjes|paket per box|"
    "pakker per boks|paczek w pudelku",
    "cards_per_pack": "cards per pack|cards pack|cards in a pack|cards in pack|cards|karten pro paeckchen|"
    "karten je paeckchen|karten pro packung|karten pro tuetchen|karten je tuetchen|"
    "karten pro tuete|karten je tuete|karten je packung|karten pro pack|karten|cartes par paquet|"
    "cartes par pochette|cartes|cartas por sobre|cartas por paquete|cartas|carte per busta|carte per bustina|"
    "kaarten per pakje|kaarten|kort per paket|kort per pakke|kart w paczce",
    "boxes_per_case": "boxes per case|boxes case|case|boxes in a case|boxes in case|case size|boxes|box per case|"
    "boxen pro karton|boxen je karton|boxen pro case|boxen|karton|displays pro karton|boites par caisse|"
    "boites par carton|cajas por carton|cajas por caja maestra|box per cartone|dozen per krat|dozen per case|"
    "lador per kartong|pudelek w skrzyni",
    "list_price": "price|box price|list price|srp|msrp|retail price|rrp|cost|price per box|preis|boxpreis|"
    "listenpreis|ladenpreis|uvp|prix|prix par boite|precio|precio por caja|prezzo|prijs|doosprijs|pris|cena|"
    "preco",
    "currency": "currency|cur|ccy|waehrung|devise|moneda|valuta|waluta",
    "per_box": "per box|pro box|par boite|por caja|per doos|box rate|a box|in a box|avg per box|average per box",
    "per_case": "per case|pro karton|par caisse|por carton|per krat|a case|avg per case|average per case",
    "own": "owned|have|have it|qty|quantity|page|binder|binder page|binder slot|box row|location|condition|paid|"
    "price paid|seen on|date|status|got it|need|want|wanted|value|link|url|photo|image|bought|sold|source|year|"
    "season|maker|brand|sport|league|sport league|product|besitz|vorhanden|zustand|bezahlt|seite|possede|etat|"
    "page classeur|tengo|estado|pagina|in bezit|staat|bladzijde|sort|row|owned by|my copy|for trade|trade|dupes|"
    "duplicates|doubles",
}  # fmt: skip
_NUMBERED_WORDS = {"card", "karte", "carte", "carta", "kaart", "kort", "karta"}
"""A column headed just “Card” holds numbers or names: what stands in it decides."""


def bare(text: str) -> str:
    """Return a heading in plain letters: no case, accents or punctuation; # and / stay where they stand alone."""
    flat = unaccented(text.strip().casefold().replace("ä", "ae").replace("ö", "oe").replace("ü", "ue"))
    if flat in ("#", "/", "№", "#'d", "#d", "n°", "nº"):
        return "no" if flat in ("n°", "nº") else flat
    return " ".join(re.sub(r"[^a-z0-9а-я№]+", " ", flat.replace("#", " no ")).split())


def _vocabulary() -> dict[str, set[str]]:
    found: dict[str, set[str]] = {}
    for field, words in _WORDS.items():
        for word in words.split("|"):
            found.setdefault(bare(word), set()).add(field)
    return found


VOCABULARY = _vocabulary()
_WEAK = (
    "group|gruppe|groupe|grupo|country|nation|"
    "nationality|school|outfit|side|stable|franchise|description|title|card name|card title|"
    "card description|bezeichnung|motiv|set|series|collection|type|category|checklist|program|serie|kategorie|"
    "categorie|sammlung|id|code|n|cost|price|version|no|nr|num|number|numbers|#|lfd nr|r"
)
WEAK = frozenset(map(bare, _WEAK.split("|")))
"""Headings that say a field only where no other column says it better: a nation is a club where there is none."""
FAIR, SURE = 0.85, 0.8
_STEMS = (
    ("nummer", "number"), ("auflage", "run"), ("oplage", "run"), ("parallel", "parallel"), ("rookie", "rookie"),
    ("mannschaft", "team"), ("player", "name"), ("spieler", "name"), ("speler", "name"), ("jugador", "name"),
    ("joueur", "name"),
)  # fmt: skip
"""Parts of compound words that tell the field."""


@lru_cache(maxsize=4096)
def fits(heading: str) -> dict[str, float]:
    """Return how well a heading fits each field, 0 to 1: exact, by its longest known phrase, or by a stem in it."""
    words = bare(heading)
    if not words or len(words) > 60:
        return {}
    if words in _NUMBERED_WORDS:
        return {"number": 0.6, "name": 0.55, "card": 0.6}
    exact = VOCABULARY.get(words)
    if exact:
        return dict.fromkeys(exact, FAIR if words in WEAK else 1.0)
    parts = words.split()
    found: dict[str, float] = {}
    for size in range(len(parts) - 1, 0, -1):
        for start in range(len(parts) - size + 1):
            for field in VOCABULARY.get(" ".join(parts[start : start + size]), ()):
                share = sum(map(len, parts[start : start + size])) / sum(map(len, parts))
                found[field] = max(found.get(field, 0.0), 0.55 + 0.35 * share)
    for stem, field in _STEMS:
        if stem in words:
            found[field] = max(found.get(field, 0.0), 0.6)
    return found


def field_of(heading: str) -> str:
    """Return the field a heading means, empty when it means none or more than one alike."""
    found = fits(heading)
    best = max(found.values(), default=0.0)
    named = [name for name, score in found.items() if score == best]
    return named[0] if best >= SURE and len(named) == 1 else ""


def is_card_word(heading: str) -> bool:
    """Whether a column is headed just “Card”: numbers, names, or both."""
    return bare(heading) in _NUMBERED_WORDS
