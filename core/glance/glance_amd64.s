//go:build amd64 && !purego

#include "go_asm.h"
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

DATA quote<>+0(SB)/1, $0x22
GLOBL quote<>(SB), RODATA|NOPTR, $1
DATA return<>+0(SB)/1, $0x0d
GLOBL return<>(SB), RODATA|NOPTR, $1

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

// func ends(p *byte, n int, separator, eol byte, from uint32, e *Ends)
TEXT ·ends(SB), NOSPLIT, $0-32
	MOVQ p+0(FP), SI
	MOVQ n+8(FP), CX
	VPBROADCASTB separator+16(FP), Y15
	VPBROADCASTB eol+17(FP), Y14
	MOVL from+20(FP), DX
	MOVQ e+24(FP), BX
	LEAQ Ends_cells(BX), DI
	LEAQ (4*const_most-256)(DI), R15 // where there may be no room for the places of one more block
	MOVQ Ends_found(BX), R8
	LEAQ (DI)(R8*4), DI
	LEAQ Ends_rows(BX), R14
	MOVQ Ends_n(BX), R8
	LEAQ (R14)(R8*4), R14
	MOVQ Ends_within(BX), R10
	MOVQ Ends_begins(BX), R11
	MOVQ Ends_closed(BX), R12
	VPBROADCASTB quote<>(SB), Y13
	VPBROADCASTB return<>(SB), Y12

block:
	SUBQ $64, CX
	JLT  done
	CMPQ DI, R15
	JGT  done
	VMOVDQU (SI), Y0
	VMOVDQU 32(SI), Y1
	VPCMPEQB Y15, Y0, Y2
	VPCMPEQB Y15, Y1, Y3
	VPCMPEQB Y14, Y0, Y4
	VPCMPEQB Y14, Y1, Y5
	VPOR Y4, Y2, Y2
	VPOR Y5, Y3, Y3
	VPCMPEQB Y13, Y0, Y4
	VPCMPEQB Y13, Y1, Y5
	VPMOVMSKB Y2, AX
	VPMOVMSKB Y3, BX
	SHLQ $32, BX
	ORQ  BX, AX       // separators and ends of line
	VPMOVMSKB Y4, R8
	VPMOVMSKB Y5, BX
	SHLQ $32, BX
	ORQ  BX, R8       // quotation marks
	MOVQ R8, R9
	ORQ  R12, R9
	JNZ  marks
	MOVQ AX, R11
	SHRQ $63, R11
	NOTQ R10
	ANDQ R10, AX
	NOTQ R10

write:
	TESTQ AX, AX
	JZ    next
	VPCMPEQB Y14, Y0, Y4
	VPCMPEQB Y14, Y1, Y5
	VPMOVMSKB Y4, R8
	VPMOVMSKB Y5, R9
	SHLQ $32, R9
	ORQ  R9, R8
	ANDQ AX, R8       // where rows end
	JNZ  rows

cells:
	POPCNTQ AX, R9
	LEAQ (DI)(R9*4), R13

four:
	TZCNTQ AX, R8
	ADDL   DX, R8
	MOVL   R8, (DI)
	BLSRQ  AX, AX
	TZCNTQ AX, R8
	ADDL   DX, R8
	MOVL   R8, 4(DI)
	BLSRQ  AX, AX
	TZCNTQ AX, R8
	ADDL   DX, R8
	MOVL   R8, 8(DI)
	BLSRQ  AX, AX
	TZCNTQ AX, R8
	ADDL   DX, R8
	MOVL   R8, 12(DI)
	BLSRQ  AX, AX
	ADDQ   $16, DI
	CMPQ   DI, R13
	JLT    four
	MOVQ   R13, DI

next:
	ADDQ $64, SI
	ADDL $64, DX
	JMP  block

rows:
	MOVQ e+24(FP), R9
	LEAQ Ends_cells(R9), R9
	MOVQ DI, BX
	SUBQ R9, BX
	SHRQ $2, BX       // how many cells have ended before these bytes

row:
	BLSMSKQ R8, R9
	ANDQ    AX, R9
	POPCNTQ R9, R9
	ADDL    BX, R9
	MOVL    R9, (R14)
	ADDQ    $4, R14
	BLSRQ   R8, R8
	JNZ     row
	JMP     cells

marks:
	MOVQ R8, R9       // within marks: an odd number of them up to here
	SHLQ $1, R9
	XORQ R8, R9
	MOVQ R9, BX
	SHLQ $2, BX
	XORQ BX, R9
	MOVQ R9, BX
	SHLQ $4, BX
	XORQ BX, R9
	MOVQ R9, BX
	SHLQ $8, BX
	XORQ BX, R9
	MOVQ R9, BX
	SHLQ $16, BX
	XORQ BX, R9
	MOVQ R9, BX
	SHLQ $32, BX
	XORQ BX, R9
	XORQ R10, R9

	// One that opens stands at the beginning of a cell, or behind one that closed.
	MOVQ AX, R13
	ORQ  R8, R13      // all that a mark may stand beside
	LEAQ (R11)(R13*2), R11
	NOTQ R11
	ANDQ R8, R11
	TESTQ R9, R11
	JNZ  done
	MOVQ R13, R11
	SHRQ $63, R11

	// Behind one that closes stands the end of the cell, a carriage return that is of it, or one that opens.
	TESTQ CX, CX
	JZ   done         // the byte behind these is not known
	VMOVDQU 1(SI), Y2
	VMOVDQU 33(SI), Y3
	VPCMPEQB Y14, Y2, Y2
	VPCMPEQB Y14, Y3, Y3
	VPCMPEQB Y12, Y0, Y4
	VPCMPEQB Y12, Y1, Y5
	VPAND Y2, Y4, Y4
	VPAND Y3, Y5, Y5
	VPMOVMSKB Y4, R10
	VPMOVMSKB Y5, BX
	SHLQ $32, BX
	ORQ  BX, R10
	ORQ  R10, R13
	NOTQ R9
	ANDQ R9, R8       // those that close
	NOTQ R13
	LEAQ (R12)(R8*2), R12
	TESTQ R12, R13
	JNZ  done
	MOVQ R8, R12
	SHRQ $63, R12
	ANDQ R9, AX
	NOTQ R9
	MOVQ R9, R10
	SARQ $63, R10
	JMP  write

done:
	MOVQ e+24(FP), BX
	LEAQ Ends_cells(BX), R8
	SUBQ R8, DI
	SHRQ $2, DI
	MOVQ DI, Ends_found(BX)
	LEAQ Ends_rows(BX), R8
	SUBQ R8, R14
	SHRQ $2, R14
	MOVQ R14, Ends_n(BX)
	SUBQ p+0(FP), SI
	MOVQ SI, Ends_looked(BX)
	MOVQ R10, Ends_within(BX)
	MOVQ R11, Ends_begins(BX)
	MOVQ R12, Ends_closed(BX)
	VZEROUPPER
	RET

// func pair(p *byte, n int, first, second byte) int
TEXT ·pair(SB), NOSPLIT, $0-32
	MOVQ p+0(FP), SI
	MOVQ n+8(FP), CX
	VPBROADCASTB first+16(FP), Y15
	VPBROADCASTB second+17(FP), Y14
	XORQ AX, AX
	DECQ CX           // the last has nothing behind it

next:
	SUBQ $32, CX
	JLT  over
	VPCMPEQB (SI)(AX*1), Y15, Y0
	VPCMPEQB 1(SI)(AX*1), Y14, Y1
	VPAND    Y0, Y1, Y0
	VPMOVMSKB Y0, R8
	TESTL R8, R8
	JNZ   there
	ADDQ  $32, AX
	JMP   next

there:
	BSFL R8, R8
	ADDQ R8, AX

over:
	MOVQ AX, ret+24(FP)
	VZEROUPPER
	RET

// func some(p *byte, n int, of uint32) uint32
TEXT ·some(SB), NOSPLIT, $0-28
	MOVQ p+0(FP), SI
	MOVQ n+8(FP), CX
	MOVL of+16(FP), R8
	VMOVD R8, X15
	VPBROADCASTB X15, Y15
	SHRL $8, R8
	VMOVD R8, X14
	VPBROADCASTB X14, Y14
	SHRL $8, R8
	VMOVD R8, X13
	VPBROADCASTB X13, Y13
	SHRL $8, R8
	VMOVD R8, X12
	VPBROADCASTB X12, Y12
	VPXOR Y8, Y8, Y8
	VPXOR Y9, Y9, Y9
	VPXOR Y10, Y10, Y10
	VPXOR Y11, Y11, Y11
	LEAQ -32(SI)(CX*1), DI // where the last 32 begin

// ENTER takes down in Y8 to Y11 which of the four stand in the 32 bytes at a place.
#define ENTER(place) \
	VMOVDQU  place, Y0;    \
	VPCMPEQB Y15, Y0, Y1;  \
	VPOR     Y1, Y8, Y8;   \
	VPCMPEQB Y14, Y0, Y2;  \
	VPOR     Y2, Y9, Y9;   \
	VPCMPEQB Y13, Y0, Y3;  \
	VPOR     Y3, Y10, Y10; \
	VPCMPEQB Y12, Y0, Y4;  \
	VPOR     Y4, Y11, Y11

on:
	CMPQ SI, DI
	JGE  last
	ENTER((SI))
	ADDQ $32, SI
	JMP  on

last:
	ENTER((DI))
	VPMOVMSKB Y8, AX
	VPMOVMSKB Y9, BX
	VPMOVMSKB Y10, CX
	VPMOVMSKB Y11, DX
	NEGL AX       // carries if it is not 0
	SBBL AX, AX
	NEGL BX
	SBBL BX, BX
	NEGL CX
	SBBL CX, CX
	NEGL DX
	SBBL DX, DX
	ANDL $1, AX
	ANDL $2, BX
	ANDL $4, CX
	ANDL $8, DX
	ORL  BX, AX
	ORL  DX, CX
	ORL  CX, AX
	MOVL AX, ret+24(FP)
	VZEROUPPER
	RET

// func undouble(to, p *byte, n int) (at, written int)
TEXT ·undouble(SB), NOSPLIT, $0-40
	MOVQ to+0(FP), DI
	MOVQ p+8(FP), SI
	MOVQ n+16(FP), CX
	MOVQ DI, R10
	LEAQ (SI)(CX*1), R11  // the end
	LEAQ -32(R11), R12    // the last place from which 32 can be read
	VPBROADCASTB quote<>(SB), Y15

block:
	CMPQ SI, R12
	JGT  end
	VMOVDQU (SI), Y0
	VPCMPEQB Y15, Y0, Y1
	VMOVDQU Y0, (DI)
	VPMOVMSKB Y1, AX
	TESTL AX, AX
	JNZ  mark
	ADDQ $32, SI
	ADDQ $32, DI
	JMP  block

mark:
	BSFL AX, AX
	LEAQ 1(SI)(AX*1), SI  // behind the mark
	LEAQ 1(DI)(AX*1), DI
	CMPQ SI, R11
	JEQ  end
	CMPB (SI), $0x22
	JNE  block
	INCQ SI
	JMP  block

end:
	SUBQ p+8(FP), SI
	SUBQ R10, DI
	MOVQ SI, at+24(FP)
	MOVQ DI, written+32(FP)
	VZEROUPPER
	RET
