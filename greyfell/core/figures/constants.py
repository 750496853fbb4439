"""Constants of nature and of the trade that more than one module needs, one place each."""

import math

MU0 = 4e-7 * math.pi
"""Permeability of free space, H/m. Exact to the figures used here. REF-M-06."""
COPPER_OHM_M = 1 / 58e6
"""Resistivity of annealed copper at 20 °C, Ω·m: 1/58 Ω·mm²/m. REF-W-01, IEC 60028."""
COPPER_PER_K = 0.00393
"""Its temperature coefficient at 20 °C, per kelvin. REF-W-01, IEC 60028."""
FLUX_FACTOR = math.pi * math.sqrt(2)
"""4.443 of V = 4.443·f·N·B·A: RMS volts of a sine over its peak flux. REF-M-01."""
STEEL_KG_M3 = 7650.0
"""Density of silicon steel sheet, kg/m³. REF-M-20."""
Z95 = 1.959964
"""Standard deviations either side of the mean that hold 95 % of a normal. JCGM 100:2008 table
G.1."""
DECIBANS = 10 / math.log(10)
"""Decibans in a nat: ten decibans are odds of ten to one."""
COOLING = 14.9
"""W/m²K by which iron in still air is cooled: 60 W from 600 cm² of an oven's core are some 67 K.
The reference on the sweep; common practice."""
IRON_SURFACE = 0.0238
"""m² of surface of a part of one kilogram; it grows with mass to the two thirds. From the same
part of four kilograms."""
IRON_HEAT = 450.0
"""J/kgK of iron and copper together: iron 450, copper 385. Tables of physics, from memory."""
DAY_CELSIUS = 20.0
"""Temperature that copper tables and cold readings are referred to, °C."""
