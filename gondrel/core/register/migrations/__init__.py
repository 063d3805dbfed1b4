"""How registers of earlier versions become those of this one."""
