# The typeface as bytes in the program; PERISCENA_TYPEFACE is its path.
    .section .rodata
    .global periscena_typeface
    .global periscena_typeface_end
    .balign 16
periscena_typeface:
    .incbin PERISCENA_TYPEFACE
periscena_typeface_end:
    .byte 0
    .section .note.GNU-stack, "", %progbits
