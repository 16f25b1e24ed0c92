"""Small order lists that several tests use."""

from __future__ import annotations

HEADER = "order,line,product,size,wording,quantity,due,customer\n"
MIXED = HEADER + (
    "A1,1,CHOIR-RING,54,Ottoline,1,2027-01-10,Choir\n"
    "A1,2,CHOIR-RING,54,Maximilian-Alexander Theodor,1,2027-01-10,Choir\n"
    "A2,1,CREW-TAG,,Halloran,3,2027-02-01,Ferry\n"
    "A2,2,CREW-TAG,,⚓,1,,Ferry\n"
    "A3,1,HIVE-PLATES,,Clover,1,,Bees\n"
)
