"""The courses of Brindlemere College, as a readable list.

A subject's line is its code and name. A course's line is::

    NUMBER TITLE | CREDITS | TEACHING | NEEDS | MARKS

CREDITS is one figure or a range. TEACHING names a pattern of sections (see ``timetable``). NEEDS
are joined by ``+`` (all of them) and ``/`` (any of them); a letter behind a course is the least
grade, ``~`` allows the same term, ``&`` asks for it, ``field>=60`` is a placement score and
``45cr`` credits earned. MARKS: ``g:`` what it counts toward, ``fee:`` a course fee, ``topic``,
``bundle``, ``evening``.
"""

COURSES = """
SOIL Soil science
110 A First Look at Soil | 4 | lab | | g:Land science g:Natural science fee:35
140 Mud, Sand and Loam | 3 | pair | | g:Land science
150 Peat, Chalk and Clay Country | 2 | half | | g:Land science
210 Reading Soil Maps | 3 | pair | SOIL 110 | g:Land science
230 Manures and Minerals | 3 | pair | SOIL 110 / SOIL 140 |
240 Soil Life and Structure | 4 | lab | SOIL 110 C | g:Land science fee:40
265 Composting at Scale | 2 | half | SOIL 110 / DAIR 120 | g:Land science
310 Soil Chemistry | 4 | lab | SOIL 240 C + CHEM 115 | g:Land science fee:60
345 Erosion and Repair | 3 | pair | SOIL 210 / WSHD 210 | g:Land science
390 Soil Survey in the Field | 3 | field | SOIL 310 C + MAPS 210 | g:Land science
490 Project in Soil Science | 1-4 | project | 75cr |
ORCH Orcharding
105 Apples, Pears and Quinces | 3 | pair | | g:Land science
130 Pruning by Winter Light | 2 | half | | g:Craft fee:20
150 Soft Fruit | 3 | field | | g:Land science
215 Grafting and Rootstocks | 3 | studio | ORCH 105 C | g:Craft fee:45
240 Orchard Pests and Allies | 3 | pair | ORCH 105 / PLNT 110 | g:Land science
260 Cider Fruit | 3 | pair | ORCH 105 + FERM 110 ~ |
320 Orchard Planning | 3 | pair | ORCH 215 C + SURV 110 | g:Land science
330 Old Varieties | 2 | half | ORCH 215 C | g:History
370 The Harvest Season | 4 | field | ORCH 215 C | fee:50
APIC Beekeeping
110 The Honey Bee | 3 | pair | | g:Natural science
115 Hive Building | 2 | half | | g:Craft fee:55
140 Wild Bees and Wasps | 2 | half | | g:Natural science
210 The Working Hive | 3 | pair | APIC 110 C / field>=60 | fee:30
225 Forage and Flowering | 3 | pair | APIC 110 + PLNT 110 ~ | g:Natural science
240 Honey, Wax and Propolis | 3 | studio | APIC 210 C | g:Craft fee:40
310 Queens and Colonies | 4 | lab | APIC 210 C | fee:60
330 Bee Health | 3 | pair | APIC 210 C |
340 Bees in the Landscape | 3 | pair | APIC 225 / WSHD 210 |
SHEP Flock and pasture
101 Flock Keeping | 4 | lab | | g:Land science fee:30
130 Goats | 3 | field | | g:Land science
150 Dogs at Work | 2 | half | | g:Craft
220 Pasture and Hay | 3 | pair | SHEP 101 C / PLNT 110 C | g:Land science
235 Lambing Season | 3 | field | SHEP 101 C |
240 Shearing | 2 | half | SHEP 101 | fee:25
260 Hooves, Fleece and Health | 3 | pair | SHEP 101 | g:Natural science
315 Breeding a Flock | 3 | pair | SHEP 260 C + MATH 130 |
360 Grazing Plans | 3 | pair | SHEP 220 C | g:Land science
DAIR Dairy craft
120 Milk and What Becomes of It | 4 | lab | | g:Craft fee:40
140 Cows, Ewes and Goats in Milk | 3 | pair | | g:Land science
160 Butter and Cream | 2 | half | |
220 Fresh Cheeses | 3 | studio | DAIR 120 C | g:Craft fee:55
230 Cultures and Rennet | 2 | half | DAIR 120 C |
245 The Small Dairy | 3 | pair | DAIR 120 | g:Enterprise
310 Ripened Cheeses | 4 | lab | DAIR 220 C + FERM 110 | g:Craft fee:70
355 The Ageing Cellar | 3 | pair | DAIR 310 ~ |
FERM Fermentation
110 Ferments of the Kitchen | 3 | pair | | g:Craft fee:25
130 Pickles and Krauts | 2 | half | | g:Craft fee:20
155 Vinegar | 2 | half | |
205 Malting and Brewing | 4 | lab | FERM 110 C | g:Craft fee:60
230 Cider and Perry | 3 | studio | FERM 110 C | g:Craft fee:50
260 Mead | 2 | half | FERM 110 + APIC 110 |
320 Yeasts and Cultures | 4 | lab | FERM 205 / FERM 230 | g:Natural science fee:50
380 The Small Cellar | 3 | pair | FERM 320 C | g:Enterprise
BAKE Baking
101 Bread | 3 | studio | | g:Craft fee:30
120 Ovens and Heat | 3 | pair | | g:Craft
130 Cakes for Feast Days | 3 | studio | | g:Craft fee:30
160 Pies and Pasties | 2 | half | | fee:25
210 Sourdough | 3 | studio | BAKE 101 C | g:Craft fee:35
240 Grain to Flour | 3 | pair | BAKE 101 / PLNT 110 |
260 Baking for Many | 3 | studio | BAKE 101 C | fee:35
300 The Village Bakery | 4 | studio | BAKE 210 C + ECON 110 | g:Enterprise fee:45
WSHD Watershed studies
110 Rivers and Rain | 3 | pair | | g:Natural science
130 Wet Meadows | 3 | pair | | g:Land science
150 Weather | 3 | pair | | g:Natural science
210 Water on the Land | 4 | lab | WSHD 110 C | g:Natural science fee:35
240 Ponds, Leats and Weirs | 3 | field | WSHD 110 | g:Land science
260 Fish and Fishways | 3 | pair | WSHD 110 C |
305 Watershed Measurement | 4 | lab | WSHD 210 C + MATH 130 | fee:45
350 Floods and Memory | 3 | pair | WSHD 210 / HIST 210 | g:History
380 Restoring a Stream | 3 | field | WSHD 305 ~ | fee:30
PLNT Plant science
110 How Plants Live | 4 | lab | | g:Natural science fee:30
120 Trees by Leaf and Bark | 3 | field | | g:Natural science
142A Wild Plants of Spring | 2 | half | | g:Natural science
142B Wild Plants of Autumn | 2 | half | | g:Natural science
205 Seeds and Saving | 3 | pair | PLNT 110 C | g:Land science
230 Hedges and Field Edges | 3 | field | PLNT 110 | g:Land science
250 Herbs and Simples | 3 | pair | PLNT 110 / CHEM 160 |
260 Plant Illness | 4 | lab | PLNT 110 C + CHEM 115 | fee:40
330 Breeding for Place | 3 | pair | PLNT 205 C + MATH 130 |
TMBR Timber framing
105 Tools and Sharpening | 2 | half | | g:Craft fee:30
120 Wood and How It Moves | 3 | pair | | g:Craft
150 Felling and Hauling | 3 | field | | g:Land science
210 Joints | 4 | studio | TMBR 105 + TMBR 120 ~ | g:Craft fee:80
230 Shingles and Roofs | 2 | half | TMBR 105 |
250 Green Wood | 3 | studio | TMBR 105 | fee:50
310 Raising a Frame | 4 | studio | TMBR 210 C + MATH 120 | fee:95
340 Repairing Old Barns | 3 | field | TMBR 210 C + HIST 150 |
SMTH Smithing
101 Fire and Iron | 3 | studio | | g:Craft fee:65
130 Key sections and Latches | 2 | half | SMTH 101 | fee:40
150 Metals and Heat | 3 | pair | | g:Natural science
205 Edge Tools | 3 | studio | SMTH 101 C | g:Craft fee:70
220 Tinsmithing | 2 | half | SMTH 101 | fee:45
260 Farrier's Work | 3 | studio | SMTH 101 C + SHEP 101 | fee:60
320 The Working Forge | 4 | studio | SMTH 205 C | g:Enterprise fee:80
CERM Ceramics
105 Clay | 3 | studio | | g:Craft fee:45
120 Tile and Brick | 3 | studio | | g:Craft fee:40
140 Slip and Glaze | 2 | half | | fee:30
215 Throwing | 3 | studio | CERM 105 C | g:Craft fee:50
240 Kilns | 3 | pair | CERM 105 + CHEM 115 ~ |
260 Moulds and Casting | 2 | half | CERM 105 C |
310 Wood Firing | 4 | studio | CERM 215 C + CERM 240 | fee:85
350 Crocks for the Dairy | 3 | studio | CERM 215 C |
TXTL Textiles and dyes
101 Fibre | 3 | studio | | g:Craft fee:30
120 Felt | 2 | half | | g:Craft fee:20
145 Natural Dyes | 3 | pair | | g:Craft fee:35
220 Weaving | 4 | studio | TXTL 101 C | g:Craft fee:45
230 Knitting and Netting | 3 | studio | TXTL 101 |
255 The Dye Garden | 3 | field | TXTL 145 / PLNT 110 |
300 Cloth for Work | 3 | studio | TXTL 220 C | g:Enterprise
340 Chemistry of Dyes | 4 | lab | TXTL 145 C + CHEM 115 C | fee:50
BSKT Basketry
101 Willow | 2 | half | | g:Craft fee:25
120 Rush and Straw | 2 | half | | g:Craft
140 Brooms and Brushes | 2 | half | | g:Craft
210 Frame Baskets | 3 | studio | BSKT 101 C | g:Craft fee:30
240 Chair Seats | 2 | half | BSKT 101 |
260 Traps, Creels and Hurdles | 3 | studio | BSKT 101 |
330 The Willow Bed | 3 | field | BSKT 210 C + PLNT 110 |
MECH Small machines
110 How Small Machines Work | 4 | lab | | g:Craft fee:40
130 Bicycles and Barrows | 2 | half | | g:Craft
150 Keeping a Tractor | 2 | half | |
215 Engines | 4 | lab | MECH 110 C | fee:55
230 Welding and Mending | 3 | studio | MECH 110 C / SMTH 101 C | fee:60
240 Pumps and Water Power | 3 | pair | MECH 110 / WSHD 110 | g:Natural science
310 Building a Small Machine | 4 | studio | MECH 215 C + SMTH 101 | fee:90
360 Electric Fences and Sensors | 3 | pair | MECH 110 C |
SURV Land surveying
110 Chain, Level and Staff | 3 | field | | g:Land science
130 Knots, Ropes and Ladders | 1 | short | |
210 Boundaries | 3 | pair | SURV 110 C + MATH 120 | g:Land science
230 Roads and Tracks | 3 | field | SURV 110 C |
250 Levels and Drainage | 3 | field | SURV 110 C |
310 The Survey Season | 4 | field | SURV 210 C + MAPS 210 | fee:30
340 Records and Deeds | 3 | pair | SURV 210 / LAWS 205 |
MAPS Field mapping
110 Reading the Map | 3 | pair | | g:Land science
130 Place Names | 3 | pair | | g:History
140 Drawing the Farm | 3 | studio | | g:Craft
210 Mapping from the Ground | 3 | field | MAPS 110 C | g:Land science
230 Mapping with Neighbours | 3 | pair | MAPS 110 |
260 Mapping from the Air | 3 | online | MAPS 110 C |
330 Atlas of a Valley | 4 | studio | MAPS 210 C + MAPS 260 |
MATH Mathematics for makers
100 Number and Measure | 3 | week | | g:Quantity
110 Sums of the Household | 2 | half | | g:Quantity
120 Shape and Proportion | 3 | week | MATH 100 / placement>=40 | g:Quantity
130 Counting and Chance | 3 | week | MATH 100 / placement>=40 | g:Quantity
140 Rates and Change | 4 | four | MATH 120 C / placement>=70 | g:Quantity
210 Sampling in the Field | 3 | pair | MATH 130 C | g:Quantity
230 Curves for Builders | 3 | pair | MATH 140 C |
240 Logic and Proof | 3 | pair | MATH 120 C |
310 Models of Land and Herd | 3 | pair | MATH 210 C + MATH 140 |
CHEM Chemistry of craft
115 Chemistry for Makers | 4 | lab | MATH 100 ~ / placement>=30 | g:Natural science fee:45
140 Soap and Candles | 2 | half | | fee:25
160 Salt, Ash and Lime | 3 | pair | | g:Natural science
220 Chemistry of Food | 4 | lab | CHEM 115 C | g:Natural science fee:50
235 Analysis | 3 | evening | CHEM 115 C + CHEM 236 & | fee:40
236 Analysis Practice | 1 | alone | CHEM 115 C + CHEM 235 & |
250 Water Testing | 3 | pair | CHEM 115 C |
330 Colour and Glass | 3 | pair | CHEM 220 / CERM 240 |
WRIT Writing
101 Writing Plainly | 3 | week | | g:Writing
120 Reading Aloud and Speaking | 3 | pair | | g:Writing
150 Field Notes | 2 | half | | g:Writing
201 Writing about Work | 3 | pair | WRIT 101 C | g:Writing
215 Letters, Leaflets and Labels | 3 | online | WRIT 101 C | g:Writing
230 Editing | 2 | half | WRIT 101 C |
240 Telling a Place | 3 | topic | WRIT 101 | g:Writing topic
310 The Long Essay | 3 | pair | WRIT 201 C |
HIST Rural history
110 Villages and Fields | 3 | pair | | g:History
130 Songs and Stories of Work | 3 | pair | | g:History
150 Barns, Byres and Mills | 3 | pair | | g:History
201 The Commons | 3 | pair | | g:History
210 Hunger and Harvest | 3 | pair | HIST 110 / HIST 201 | g:History
230 Canals and Roads | 3 | pair | HIST 110 / HIST 150 | g:History
250 Studies in Craft History | 3 | topic | 30cr | g:History topic
320 Reading Old Records | 3 | pair | HIST 210 C |
ECON Smallholding economics
110 The Smallholding Ledger | 3 | week | | g:Enterprise g:Quantity
130 Saving and Borrowing | 2 | half | | g:Enterprise
160 Markets and Fairs | 3 | pair | | g:Enterprise
210 Costs and Prices | 3 | pair | ECON 110 C | g:Enterprise
230 The Price of Land | 3 | pair | ECON 110 C |
245 Co-operatives | 3 | any | ECON 110 | g:Enterprise
310 Starting Small | 4 | pair | ECON 210 C + WRIT 201 | g:Enterprise
350 Selling at the Gate | 3 | evenings | ECON 160 / ECON 210 | g:Enterprise
LAWS Land law
110 Law for Neighbours | 3 | pair | | g:Enterprise
130 Contracts on a Page | 2 | half | | g:Enterprise
205 Tenancy and Title | 3 | any | LAWS 110 | g:Enterprise
230 Work and Wages | 3 | pair | LAWS 110 |
240 Water Rights | 3 | pair | LAWS 110 C |
310 Paths, Commons and Access | 3 | pair | LAWS 205 C |
340 Food Rules | 3 | anyhalf | LAWS 110 / DAIR 120 |
SEMR First-year seminar
101 Land, Craft and Question | 3 | seminar | | g:Seminar bundle
102 Hand and Head | 3 | seminar | | g:Seminar bundle
103 A Year on the Hill | 3 | seminar | | g:Seminar bundle
201 Seminar for the Returning | 2 | half | 24cr | g:Seminar
FARM Mixed farming
101 The Farm as a Whole | 3 | pair | | g:Land science
130 Hens, Ducks and Geese | 3 | field | | g:Land science fee:20
150 Kitchen Garden | 3 | field | | g:Land science
205 Rotation and Rest | 3 | pair | FARM 101 C / SOIL 110 C | g:Land science
230 Pigs and Woodland | 3 | field | FARM 101 |
240 Fences and Gates | 2 | half | FARM 101 |
260 Farm Safety | 1 | short | |
310 Farm Plans | 4 | pair | FARM 205 C + ECON 110 | g:Enterprise
390 Farm Placement | 2-6 | project | 60cr |
"""
