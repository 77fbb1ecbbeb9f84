//go:build amd64 && !purego

#include "textflag.h"

DATA less<>+0(SB)/8, $0x3c3c3c3c3c3c3c3c
GLOBL less<>(SB), RODATA|NOPTR, $8
DATA more<>+0(SB)/8, $0x3e3e3e3e3e3e3e3e
GLOBL more<>(SB), RODATA|NOPTR, $8
DATA space<>+0(SB)/8, $0x2020202020202020
GLOBL space<>(SB), RODATA|NOPTR, $8
DATA amp<>+0(SB)/8, $0x2626262626262626
GLOBL amp<>(SB), RODATA|NOPTR, $8
DATA del<>+0(SB)/8, $0x7f7f7f7f7f7f7f7f
GLOBL del<>(SB), RODATA|NOPTR, $8

// LOOK sets the highest bit of bytes of Y4 (odd), Y5 (double) and Y6 (&), by the bytes in Y0 and
// those before them in Y1.
#define LOOK \
	VPCMPEQB Y13, Y0, Y5; \
	VPCMPEQB Y13, Y1, Y2; \
	VPAND    Y2, Y5, Y5;  \
	VPCMPGTB Y0, Y13, Y4; \ // below the space, as numbers with a sign
	VPCMPEQB Y11, Y0, Y2; \
	VPOR     Y2, Y4, Y4;  \
	VPCMPEQB Y12, Y0, Y6

// func pairs(p *byte, n int) uint32
TEXT ·pairs(SB), NOSPLIT, $0-20
	MOVQ p+0(FP), SI
	MOVQ n+8(FP), CX
	VPBROADCASTQ space<>(SB), Y13
	VPBROADCASTQ amp<>(SB), Y12
	VPBROADCASTQ del<>(SB), Y11
	VPXOR Y7, Y7, Y7  // high so far
	VPXOR Y8, Y8, Y8  // odd
	VPXOR Y9, Y9, Y9  // double
	VPXOR Y10, Y10, Y10 // &
	MOVL $-1, DX      // of the last bytes, those that count
	LEAQ (SI)(CX*1), DI
	SUBQ $32, DI      // where the last 32 begin
	CMPQ CX, $32
	JGE  more
	MOVQ CX, R8
	MOVQ $32, CX
	SUBQ R8, CX
	SHLL CX, DX
	JMP  last

more:
	CMPQ SI, DI
	JGE  last
	VMOVDQU (SI), Y0
	VMOVDQU -1(SI), Y1
	LOOK
	VPOR Y0, Y7, Y7
	VPOR Y4, Y8, Y8
	VPOR Y5, Y9, Y9
	VPOR Y6, Y10, Y10
	ADDQ $32, SI
	JMP  more

last:
	VMOVDQU (DI), Y0
	VMOVDQU -1(DI), Y1
	LOOK
	XORL AX, AX

// ANY sets a bit of what is seen if there is a byte of a kind, before the last 32 or among those
// of them that count.
#define ANY(before, there, bit) \
	VPMOVMSKB there, R8;  \
	VPMOVMSKB before, R9; \
	ANDL DX, R8;          \
	ORL  R9, R8;          \
	NEGL R8;              \ // carries if it is not 0
	SBBL R8, R8;          \
	ANDL bit, R8;         \
	ORL  R8, AX

	ANY(Y7, Y0, $1)
	ANY(Y8, Y4, $2)
	ANY(Y9, Y5, $4)
	ANY(Y10, Y6, $8)
	MOVL AX, ret+16(FP)
	VZEROUPPER
	RET

// func words(p *byte, n int) int
TEXT ·words(SB), NOSPLIT, $0-24
	MOVQ p+0(FP), SI
	MOVQ n+8(FP), CX
	VPBROADCASTQ less<>(SB), Y15
	VPBROADCASTQ more<>(SB), Y14
	VPBROADCASTQ space<>(SB), Y13
	VPBROADCASTQ amp<>(SB), Y12
	VPBROADCASTQ del<>(SB), Y11
	XORQ AX, AX

on:
	SUBQ $32, CX
	JLT  end
	VMOVDQU (SI)(AX*1), Y0
	VMOVDQU -1(SI)(AX*1), Y1
	LOOK
	VPCMPEQB  Y15, Y0, Y2
	VPCMPEQB  Y14, Y0, Y3
	VPOR      Y4, Y5, Y4
	VPOR      Y2, Y3, Y2
	VPOR      Y4, Y6, Y4
	VPOR      Y2, Y4, Y4
	VPMOVMSKB Y4, R8
	TESTL     R8, R8
	JNZ       found
	ADDQ      $32, AX
	JMP       on

found:
	BSFL R8, R8
	ADDQ R8, AX

end:
	MOVQ AX, ret+16(FP)
	VZEROUPPER
	RET
