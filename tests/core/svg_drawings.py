# ruff: noqa: E501  (drawings read best in one line each)
"""Drawings written to try the reading of SVG: each is the inside of an svg element of 100 × 100, or
a whole one.

They stay within what Halvex supports; tests/browser/test_marks.py compares each with the browser's
own picture.
"""

_STAR = "M50 5L61 39H97L68 60L79 95L50 73L21 95L32 60L3 39H39Z"

INSIDES = {
    "path of lines": f'<path d="{_STAR}"/>',
    "relative path": '<path d="m10 10h40v30h-20l10 30zm50 50l30 5-10 25z" fill="#204060"/>',
    "cubic curves": '<path d="M10 80C20 10 40 10 50 50S80 90 90 20L95 95Z" fill="teal"/>',
    "quadratic curves": '<path d="M10 60Q30 5 50 60T90 60V90H10Z" fill="rgb(200,80,40)"/>',
    "arcs": '<path d="M20 50A30 20 30 1 1 70 60A15 15 0 0 0 40 70Z" fill="#a02040"/>',
    "arc flags run together": '<path d="M30 50a20 20 0 1140 0a20 20 0 01-40 0z" fill="navy"/>',
    "numbers run together": '<path d="M10.5.5L90-.0L90.5 90.5.5 60e0z" fill="olive"/>',
    "even-odd": f'<path d="{_STAR}M50 30a20 20 0 1 0 .1 0z" fill-rule="evenodd" fill="purple"/>',
    "nonzero with a hole": '<path d="M10 10H90V90H10ZM30 30V70H70V30Z" fill="brown"/>',
    "nonzero without a hole": '<path d="M10 10H90V90H10ZM30 30H70V70H30Z" fill="brown"/>',
    "star that crosses itself": '<path d="M50 5L78 92L4 38H96L22 92Z" fill="darkgreen"/>',
    "star by even-odd": '<path d="M50 5L78 92L4 38H96L22 92Z" fill="darkgreen" fill-rule="evenodd"/>',
    "rectangle": '<rect x="10" y="20" width="70" height="50" fill="#336699"/>',
    "rounded rectangle": '<rect x="10" y="20" width="70" height="50" rx="20" ry="8" fill="#336699"/>',
    "corners too round": '<rect x="10" y="20" width="70" height="50" rx="90" fill="#336699"/>',
    "circle": '<circle cx="45" cy="55" r="38" fill="crimson"/>',
    "ellipse": '<ellipse cx="50" cy="50" rx="45" ry="20" fill="indigo"/>',
    "polygon": '<polygon points="10,10 90,20 70,90 20 70" fill="tomato"/>',
    "polyline is filled": '<polyline points="10 10 90 20 70 90 20 70" fill="tomato" stroke="black" stroke-width="4"/>',
    "line": '<line x1="10" y1="20" x2="85" y2="80" stroke="green" stroke-width="9"/>',
    "percentages": '<rect x="10%" y="20%" width="50%" height="25%" fill="sienna"/><circle cx="50%" cy="75%" r="20%"/>',
    "units": '<rect x="2mm" y=".1in" width="12pt" height="3pc" fill="sienna"/><circle cx="60" cy="60" r="4Q"/><rect x="60" y="5" width="2em" height="1cm"/>',
    "caps": "".join(
        f'<path d="M20 {y}H80" stroke="black" stroke-width="14" stroke-linecap="{cap}"/>'
        for y, cap in ((20, "butt"), (50, "round"), (80, "square"))
    ),
    "joins": "".join(
        f'<path d="M10 {y + 20}L35 {y}L60 {y + 20}L85 {y}" fill="none" stroke="black" stroke-width="9" stroke-linejoin="{join}"/>'
        for y, join in ((10, "miter"), (40, "round"), (70, "bevel"))
    ),
    "mitre limit": '<path d="M10 20L90 27L10 34" fill="none" stroke="black" stroke-width="5"/>'
    '<path d="M10 60L80 67L10 74" fill="none" stroke="black" stroke-width="3" stroke-miterlimit="20"/>',
    "closed line": '<path d="M20 20H80V80H20Z" fill="none" stroke="darkred" stroke-width="12"/>',
    "line on a curve": '<path d="M10 80C10 0 90 0 90 80" fill="none" stroke="darkblue" stroke-width="16" stroke-linecap="round"/>',
    "dashes": '<path d="M10 80A70 70 0 0 1 80 10V90" fill="none" stroke="black" stroke-width="8" stroke-dasharray="12 5 3 5"/>',
    "odd dashes, begun late": '<path d="M5 30H95M5 60H95" stroke="black" stroke-width="8" stroke-dasharray="10,6,4" stroke-dashoffset="7"/>',
    "dots by round caps": '<path d="M10 50H90" stroke="black" stroke-width="9" stroke-linecap="round" stroke-dasharray="0 16"/>',
    "dot of no length": '<path d="M50 50h0" stroke="black" stroke-width="30" stroke-linecap="round"/>',
    "fill and line": '<circle cx="50" cy="50" r="30" fill="gold" stroke="black" stroke-width="10"/>',
    "line painted first": '<circle cx="50" cy="50" r="30" fill="gold" stroke="black" stroke-width="10" paint-order="stroke"/>',
    "translate and rotate": '<g transform="translate(50 50) rotate(30)"><rect x="-30" y="-10" width="60" height="20" fill="peru"/></g>',
    "rotate about a point": '<rect x="30" y="30" width="40" height="15" transform="rotate(-45, 50, 50)" fill="peru"/>',
    "scale widens lines": '<path transform="scale(4 1)" d="M3 10V90H20" fill="none" stroke="black" stroke-width="5"/>',
    "skew and matrix": '<rect x="20" y="20" width="30" height="30" transform="skewX(20) skewY(10)" fill="orchid"/>'
    '<rect width="10" height="10" transform="matrix(2 .5 -.5 1 70 60)" fill="orange"/>',
    "mirrored": '<path d="M10 10H60L10 60Z" transform="scale(-1 1) translate(-100 0)" fill="steelblue"/>',
    "nested groups": '<g fill="red" transform="scale(.5)"><g transform="translate(50)"><rect width="80" height="80"/><circle cx="120" cy="120" r="30" fill="blue"/></g></g>',
    "clipped to a circle": '<clipPath id="c"><circle cx="50" cy="50" r="30"/></clipPath><path d="M0 0H100V60H0Z" fill="teal" clip-path="url(#c)"/>',
    "a clipped group": '<clipPath id="c" transform="rotate(20 50 50)"><rect x="20" y="20" width="60" height="40"/></clipPath>'
    '<g style="clip-path: url(#c)"><circle cx="30" cy="30" r="25" fill="red"/><path d="M10 90L90 10" stroke="navy" stroke-width="12"/></g>',
    "clips within clips": '<clipPath id="a"><rect x="10" y="10" width="60" height="80"/></clipPath><clipPath id="b"><circle cx="60" cy="50" r="35"/></clipPath>'
    '<g clip-path="url(#a)"><g transform="scale(.9)" clip-path="url(#b)"><rect width="100" height="100" fill="purple"/></g></g>',
    "a clip of several shapes": '<defs><circle id="dot" r="14"/></defs><clipPath id="c"><use href="#dot" x="25" y="30"/><use href="#dot" x="60" y="30" transform="translate(0 20)"/>'
    '<path d="M20 60H90V95H20ZM40 70H70V85H40Z" clip-rule="evenodd"/></clipPath><rect width="100" height="100" fill="#704020" clip-path="url(#c)"/>',
    "a clip of nothing": '<clipPath id="c"/><rect width="100" height="100" fill="red" clip-path="url(#c)"/><circle cx="50" cy="50" r="20" fill="blue"/>',
    "use": '<defs><path id="leaf" d="M0 0Q20 -20 40 0Q20 20 0 0Z"/></defs><use href="#leaf" x="10" y="30" fill="green"/>'
    '<use href="#leaf" transform="translate(50 60) rotate(90)" fill="lime"/>',
    "use of a group": '<g id="pair"><circle cx="15" cy="15" r="10"/><circle cx="40" cy="15" r="10" fill="red"/></g><use href="#pair" y="50"/>',
    "use of a symbol": '<symbol id="s" viewBox="0 0 10 10"><path d="M0 5L5 0L10 5L5 10Z"/></symbol><use href="#s" x="10" y="10" width="40" height="40" fill="red"/>'
    '<use href="#s" x="50" y="50" width="45" height="20"/>',
    "inner svg": '<svg x="20" y="10" width="60" height="80" viewBox="0 0 10 10" preserveAspectRatio="none"><ellipse cx="5" cy="5" rx="5" ry="3" fill="plum"/></svg>',
    "classes": '<style>.a{fill:#0a0}.b.a{fill:#00a}#c{stroke:red;stroke-width:6px}</style><rect class="a" width="40" height="40"/>'
    '<rect class="a b" x="50" width="40" height="40"/><rect id="c" class="b" y="50" x="10" width="40" height="40" fill="none"/>',
    "rules against attributes": '<style>rect{fill:green}rect{stroke:none !important}</style><rect width="60" height="60" fill="red" style="stroke:blue;stroke-width:9"/>'
    '<rect x="50" y="50" width="40" height="40" style="fill:orange"/>',
    "children and siblings": '<style>g>path{fill:maroon}g path+path{fill:navy}</style><g><path d="M5 5H45V45H5Z"/><path d="M55 5H95V45H55Z"/></g><path d="M5 55H95V90H5Z"/>',
    "colours": "".join(
        f'<rect x="{10 + 40 * (i % 2)}" y="{5 + 30 * (i // 2)}" width="35" height="25" fill="{c}"/>'
        for i, c in enumerate(
            ["#f80", "hsl(200 80% 30%)", "rgb(30% 60% 20%)", "rebeccapurple", "hwb(20 10% 20%)", "#123456ff"]
        )
    ),
    "current colour": '<g color="teal"><rect width="60" height="60" fill="currentColor"/><g fill="none" stroke="currentColor" stroke-width="8"><circle cx="70" cy="70" r="20"/></g></g>',
    "inherited": '<g fill="none" stroke="black" stroke-width="6" stroke-linejoin="round"><path d="M10 10L50 90L90 10"/><path d="M30 10H70" stroke="inherit"/></g>',
    "hidden": '<rect width="90" height="90" fill="silver"/><rect width="50" height="50" display="none"/><g visibility="hidden">'
    '<circle cx="30" cy="30" r="20"/><circle cx="60" cy="60" r="20" visibility="visible" fill="black"/></g>',
    "switch": '<switch><g systemLanguage="xx"><rect width="90" height="90"/></g><circle cx="50" cy="50" r="40" fill="coral"/></switch>',
    "other vocabularies": '<desc>a note</desc><x:note xmlns:x="urn:port-sorrel">not drawn</x:note><rect x="20" y="20" width="50" height="50" fill="khaki" stroke="black"/>',
}

_HEAD = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
DRAWINGS = {
    name: f'<svg {_HEAD} width="100" height="100" viewBox="0 0 100 100">{inside}</svg>'
    for name, inside in INSIDES.items()
} | {
    "viewBox off the origin": f'<svg {_HEAD} width="100" height="100" viewBox="-50 -20 200 200"><circle cx="50" cy="80" r="90" fill="red"/></svg>',
    "viewBox of another shape": f'<svg {_HEAD} width="100" height="100" viewBox="0 0 200 100"><rect width="200" height="100" fill="green"/></svg>',
    "kept to the edge": f'<svg {_HEAD} width="100" height="100" viewBox="0 0 200 100" preserveAspectRatio="xMinYMax"><rect width="200" height="100" fill="green"/></svg>',
    "without a viewBox": f'<svg {_HEAD} width="100" height="100"><rect x="5" y="15" width="80" height="60" fill="navy"/></svg>',
    "with a document type": '<?xml version="1.0"?><!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd">'
    f'<svg {_HEAD} width="100" height="100"><use xlink:href="#a" x="30"/><rect id="a" x="5" y="15" width="30" height="60"/></svg>',
}
