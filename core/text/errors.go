package text

import "strings"

// errorValues are what spreadsheet programs show where something cannot be calculated, in the
// languages in which they are sold: not available, a reference that is gone, a wrong value, an
// unknown name, a division by zero, a wrong number, an empty intersection, a result that finds
// no room, and so on.
var errorValues = func() map[string]bool {
	m := make(map[string]bool)
	for _, v := range strings.Fields(`
#N/A #REF! #VALUE! #NAME? #DIV/0! #NUM! #NULL! #SPILL! #CALC! #GETTING_DATA #FIELD! #BLOCKED! #CONNECT! #UNKNOWN! #BUSY! #PYTHON! #EXTERNAL! #ERROR!
#NV #BEZUG! #WERT! #NAME? #ZAHL! #ÜBERLAUF! #KALK!
#VALEUR! #NOM? #NOMBRE! #NUL! #PROPAGATION! #CALCUL!
#N/D #N/D! #¡REF! #¡VALOR! #¿NOMBRE? #¡DIV/0! #¡NUM! #¡NULO! #¡DESBORDAMIENTO! #VALOR! #NOME? #NÚM! #NULO! #DESPEJAR! #CALC!
#RIF! #VALORE! #NUMERO! #NULLO! #ESPANSIONE! #CALCOLO!
#N/B #VERW! #WAARDE! #NAAM? #DEEL/0! #GETAL! #LEEG! #OVERLOOP!
#ADR! #ARG! #NAZWA? #DZIEL/0! #LICZBA! #ZERO! #ROZLANIE! #ROZLEWANIE!
#SAKNAS! #REFERENS! #VÄRDEFEL! #NAMN? #DIVISION/0! #OGILTIGT! #SKÄRNING! #SPILL!
#I/T #REFERENCE! #VÆRDI! #NAVN? #OVERLØB! #VERDI! #NULL! #OVERFLYT! #OVERFLYT!
#PUUTTUU! #PUUTTUU #VIITTAUS! #ARVO! #NIMI? #JAKO/0! #LUKU! #TYHJÄ! #LEVIÄMINEN!
#Н/Д #ССЫЛКА! #ЗНАЧ! #ИМЯ? #ДЕЛ/0! #ЧИСЛО! #ПУСТО! #ПЕРЕНОС! #Н/Д! #ПОСИЛАННЯ! #ЗНАЧЕННЯ! #ІМ'Я? #ДІЛЕННЯ/0!
#YOK #BAŞV! #DEĞER! #AD? #SAYI/0! #BÖL/0! #SAYI! #BOŞ! #TAŞMA!
#NENÍ_K_DISPOZICI #ODKAZ! #HODNOTA! #NÁZEV? #DĚLENÍ_NULOU! #ČÍSLO! #NEDOSTUPNÝ #PŘESAH!
#HIÁNYZIK #HIV! #ÉRTÉK! #NÉV? #ZÉRÓOSZTÓ! #SZÁM! #NULLA! #KITERJEDÉS!
#Δ/Υ #ΑΝΑΦ! #ΤΙΜΗ! #ΟΝΟΜΑ? #ΔΙΑΙΡ./0! #ΑΡΙΘ! #ΚΕΝΟ!
`) {
		m[v] = true
	}
	return m
}()

// IsErrorValue reports whether a cell has nothing but the error value of a spreadsheet program,
// such as #N/A or #BEZUG!.
func IsErrorValue(cell string) bool {
	if len(cell) < 3 || len(cell) > 48 {
		return false
	}
	cell = strings.TrimSpace(cell)
	if len(cell) < 3 || cell[0] != '#' {
		return len(cell) > 4 && len(cell) <= 7 && strings.HasPrefix(cell, "Err:") && strings.Trim(cell[4:], "0123456789") == ""
	}
	return errorValues[cell] || errorValues[strings.ToUpper(cell)]
}
