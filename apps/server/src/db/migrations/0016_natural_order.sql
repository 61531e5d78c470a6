-- Texts in registers are ordered as people order them: "item 2" before "item 10" (Unicode collation algorithm with numeric order, UTS 35).
CREATE COLLATION "ypomet_natural" (provider = icu, locale = 'und-u-kn-true');
