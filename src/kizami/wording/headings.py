"""Headings of order lists: what shops and marketplaces call their columns, in twelve languages, with Chinese and Korean.

From memory of lists and forms as they are in use (common practice, no source). A heading is looked up folded,
see `fold_heading`, so that capitals, accents of German umlauts written out, dots and dashes do not matter.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping
from types import MappingProxyType

__all__ = ["HEADINGS", "KEPT", "SURE", "VAGUE", "fold_heading"]

#: How sure a heading is of its field: it can mean nothing else; or it is used for several things.
SURE, VAGUE = 0.95, 0.7

_SURE: dict[str, str] = {
    "order": """
        order | order no | order number | order id | order nr | order ref | order reference | sales order | po number |
        purchase order | receipt id | transaction id | auftrag | auftragsnummer | auftrags nr | auftragsnr |
        bestellung | bestellnummer | bestell nr | bestellnr | commande | no de commande | numéro de commande |
        n° commande | n° de commande | ordine | numero ordine | n ordine | nr ordine | pedido | número de pedido |
        nº pedido | n pedido | nº de pedido | encomenda | nº encomenda | número da encomenda | bestelling |
        ordernummer | bestelnummer | zamówienie | nr zamówienia | numer zamówienia | objednávka | číslo objednávky |
        č objednávky | beställning | beställningsnummer | ordernr | sipariş | sipariş no | sipariş numarası |
        注文番号 | 注文no | 受注番号 | 注文id | オーダー番号 |
        订单号 | 订单编号 | 訂單號 | 訂單編號 | 주문번호 | 주문 번호""",
    "line": """
        line | line no | line number | line item | line id | order line | item no | pos | position | zeile | ligne |
        riga | línea | linha | regel | regelnummer | pozycja | lp | řádek | rad | radnr | satır | satır no | 行 | 行番号 |
        明細番号 | 枝番""",
    "product": """
        product | product code | product id | sku | sku code | article no | article number | item code | item sku |
        variant sku | lineitem sku | model | artikel | artikelnummer | artikel nr | artikelnr | art nr | produkt |
        produktnummer | produktcode | article | référence | référence produit | réf | ref produit | produit | prodotto |
        codice | codice prodotto | codice articolo | articolo | producto | código | código de producto | artículo |
        referencia | produto | código do produto | artigo | referência | productcode | artikelcode | produktu kod |
        kod produktu | symbol | výrobek | kód výrobku | zboží | kód zboží | artikelnummer sku | ürün | ürün kodu |
        stok kodu | 商品 | 商品コード | 商品番号 | 品番 | 型番 | 製品 |
        产品 | 产品编号 | 商品编码 | 货号 | 產品 | 產品編號 | 商品編號 | 상품 | 상품코드 | 상품번호 | 제품""",
    "size": """
        size | ring size | ringsize | grösse | groesse | größe | ringgröße | ringgrösse | ringgroesse | taille |
        taille de bague | tour de doigt | misura | misura anello | taglia | talla | talla de anillo | medida |
        tamanho | aro | tamanho do anel | maat | ringmaat | rozmiar | rozmiar pierścionka | velikost |
        velikost prstenu | storlek | ringstorlek | beden | ölçü | yüzük ölçüsü | yüzük numarası | サイズ | 号数 |
        リングサイズ | 指輪サイズ |
        尺寸 | 戒指尺寸 | 尺码 | 戒圍 | 尺碼 | 사이즈 | 반지사이즈 | 호수""",
    "wording": """
        wording | engraving | engraving text | text to engrave | engrave | engraved text | personalisation |
        personalization | personalised text | personalized text | personalisation text | personalization text |
        custom text | customisation | customization | inscription | lettering | words | name to engrave |
        name on piece | name on item | name for engraving | text on item | text line 1 | line 1 text | monogram |
        initials | gravur | gravurtext | gravurwunsch | wunschtext | wunschgravur | beschriftung | personalisierung |
        aufschrift | gravure | texte à graver | texte gravure | texte de gravure | personnalisation | incisione |
        testo incisione | testo da incidere | personalizzazione | grabado | texto a grabar | texto grabado |
        texto del grabado | personalización | gravação | texto a gravar | gravação texto | texto da gravação |
        personalização | gravering | graveertekst | gravure tekst | te graveren tekst | personalisatie |
        grawer | grawerunek | tekst grawera | treść grawera | treść graweru | personalizacja | gravírování | rytina |
        text gravírování | text rytiny | text k vyrytí | text gravyr | gravyr | gravyrtext | gravera | personlig text |
        gravür | gravür yazısı | yazılacak isim | yazı | kazınacak yazı | kişiselleştirme | 刻印 | 刻印文字 |
        刻印内容 | 彫刻文字 | 名入れ | 名入れ内容 | 名入れ文字 | お名入れ | 文字 |
        刻字 | 刻字内容 | 定制内容 | 刻字內容 | 客製內容 | 각인 | 각인문구 | 각인내용 | 문구""",
    "second": """
        second wording | second line | line 2 | line 2 text | text line 2 | text 2 | second text | engraving 2 |
        inside | inside wording | inside text | inside engraving | back | back wording | back text | back engraving |
        reverse | gravur 2 | zweite zeile | zeile 2 | innengravur | gravur innen | rückseite | rückseitentext |
        gravur rückseite | seconde ligne | deuxième ligne | ligne 2 | intérieur | gravure intérieure | verso |
        gravure verso | seconda riga | riga 2 | interno | incisione interna | retro | segunda línea | línea 2 |
        grabado interior | reverso | segunda linha | linha 2 | gravação interior | tweede regel | regel 2 |
        binnenkant | achterkant | tekst achterkant | druga linia | linia 2 | wewnątrz | grawer wewnątrz | tył |
        druhý řádek | řádek 2 | uvnitř | vnitřní rytina | zadní strana | andra raden | rad 2 | insida | baksida |
        ikinci satır | satır 2 | iç yazı | içine yazılacak | arka yüz | arka yazı | 裏面 | 裏面刻印 | 内側 | 内側刻印 |
        2行目 | 刻印2 |
        第二行 | 背面刻字 | 내부각인 | 뒷면각인""",
    "quantity": """
        quantity | qty | qnty | pieces | pcs | lineitem quantity | menge | anzahl | stück | stückzahl | stueck |
        quantité | qté | qte | quantità | qtà | pezzi | cantidad | cant | unidades | quantidade | qtd | aantal | stuks |
        ilość | liczba | szt | liczba sztuk | množství | počet | počet kusů | ks | antal | adet | miktar | 数量 | 個数 |
        点数 |
        数目 | 件数 | 數量 | 件數 | 수량 | 개수""",
    "due": """
        due | due date | wanted by | ship by | ship by date | deadline | needed by | delivery date | dispatch by |
        liefertermin | lieferdatum | fällig | fällig am | termin | versand bis | à livrer le | date de livraison |
        échéance | pour le | consegna | data di consegna | entro il | scadenza | entrega | fecha de entrega |
        fecha límite | data de entrega | prazo | leverdatum | uiterlijk | leveren voor | termin realizacji |
        data wysyłki | termín | termín dodání | dodat do | leveransdatum | senast | teslim | teslim tarihi |
        son tarih | 納期 | 納品日 | 発送期限 | お届け日 | 希望納期 |
        交货日期 | 发货日期 | 交貨日期 | 出貨日期 | 납기 | 납기일 | 배송일""",
    "customer": """
        customer | customer name | buyer | buyer name | client | client name | ordered by | purchaser | recipient |
        recipient name | ship to | ship to name | shipping name | billing name | delivery name | full name |
        first name | last name | surname | given name | family name | kunde | kundenname | käufer | besteller |
        empfänger | vorname | nachname | lieferadresse name | rechnungsname | acheteur | nom du client | nom client |
        destinataire | prénom client | nom de famille | nom complet | cliente | nome cliente | acquirente |
        destinatario | cognome | nombre del cliente | nombre cliente | comprador | apellido | apellidos |
        nome do cliente | apelido | sobrenome | klant | klantnaam | naam klant | koper | ontvanger | achternaam |
        voornaam | klient | nazwa klienta | kupujący | odbiorca | nazwisko | imię i nazwisko | zákazník |
        jméno zákazníka | kupující | příjemce | příjmení | kund | kundnamn | köpare | mottagare | förnamn | efternamn |
        müşteri | müşteri adı | alıcı | alıcı adı | soyadı | soyad | ad soyad | お客様名 | 注文者 | 注文者名 | 購入者 |
        購入者名 | お届け先氏名 | 氏名 | 受取人 |
        客户 | 买家 | 收件人 | 客戶 | 買家 | 고객 | 고객명 | 구매자 | 수령인""",
    "priority": """
        priority | rush | urgent | express | eilig | eilauftrag | expresse | urgente | spoed | pilne | priorytet |
        spěchá | priorita | prioritet | brådskande | acil | öncelik | 至急 | 優先度 | 特急""",
    "note": """
        gift note | note | notes | gift message | message | remark | remarks | comment | comments | buyer note |
        buyer notes | note from buyer | order notes | instructions | special instructions | bemerkung | bemerkungen |
        anmerkung | notiz | hinweis | nachricht | grußkarte | remarque | remarques | commentaire | message cadeau |
        nota | osservazioni | messaggio | messaggio regalo | commento | notas | observaciones | mensaje |
        mensaje de regalo | comentario | observações | mensagem | comentário | opmerking | opmerkingen |
        cadeautekst | notitie | bericht | uwagi | wiadomość | komentarz | poznámka | poznámky | zpráva | vzkaz |
        anteckning | meddelande | kommentar | anmärkning | not | notlar | açıklama | mesaj | hediye notu | 備考 | メモ |
        メッセージ | コメント | ご要望 |
        备注 | 留言 | 備註 | 비고 | 메모 | 요청사항""",
    "typeface": """
        typeface | font | face | font style | font choice | lettering style | schrift | schriftart | police |
        police de caractère | écriture | carattere | tipo di carattere | stile carattere | fuente | tipo de letra |
        tipografía | fonte | tipo de letra fonte | lettertype | czcionka | krój pisma | písmo | font písma | typsnitt |
        teckensnitt | yazı tipi | yazı karakteri | 書体 | フォント |
        字体 | 字體 | 서체 | 글꼴 | 폰트""",
    "material": """
        material | metal | alloy | metall | legierung | werkstoff | matière | métal | matériau | materiale | metallo |
        materiaal | metaal | materiał | kruszec | materiál | kov | malzeme | maden | 素材 | 材質 | 金属 | 地金 |
        材质 | 材料 | 재질 | 소재""",
    "finish": """
        finish | surface | plating | surface finish | oberfläche | finition | finitura | superficie | acabado |
        acabamento | afwerking | wykończenie | povrch | povrchová úprava | ytbehandling | yta | yüzey | kaplama |
        仕上げ | 表面 | メッキ""",
    "colour": """
        colour | color | farbe | couleur | colore | cor | kleur | kolor | barva | färg | renk | 色 | カラー""",
    "logo": """
        logo | logo file | artwork | artwork file | image | image file | picture | design | design file | motif |
        motiv | logodatei | bild | bilddatei | fichier logo | fichier | file logo | immagine | archivo | imagen |
        ficheiro | imagem | logobestand | afbeelding | plik | grafika | soubor | obrázek | bildfil | dosya | görsel |
        ロゴ | 画像 | 画像ファイル""",
    "set": """
        set | group | crew | family | party | team | together with | gruppe | famille | groupe | gruppo | grupo |
        equipo | groep | grupa | skupina | grupp | grup | takım | セット | グループ""",
}  # fmt: skip

#: Headings that are used for several things: what else the list holds decides.
_VAGUE: dict[str, str] = {
    "line": "item | artikelpos | nr | no | lfd nr | #",
    "product": "code | item name | product name | item title | title | produktname | artikelname | "
    "artikelbezeichnung | bezeichnung | listing | lineitem name | nazwa produktu | název | benämning | ürün adı | 商品名 | 品名",
    "wording": "name | names | text | namen | nom | prénom | nome | nombre | texte | testo | texto | naam | tekst | imię | "
    "imie | napis | jméno | nápis | namn | isim | ad | adı | metin | 名前 | お名前 | テキスト | 文言 | message on item",
    "second": "second | date | datum | 日付 | data | fecha | tarih",
    "quantity": "count | number | num | st | no of items",
    "customer": "for | account | company | firma | société | azienda | empresa | bedrijf | företag | şirket | 会社",
}  # fmt: skip

#: What many lists carry and no piece needs: it stays with the row and is never wording.
_KEPT = """
    email | e mail | mail | e mail address | email address | buyer email | mejl | e posta | eposta | メール |
    メールアドレス | correo | correo electrónico | courriel | phone | telephone | tel | mobile | telefon | téléphone |
    telefono | teléfono | telefone | telefoon | 電話 | 電話番号 | address | address 1 | address 2 | address line 1 |
    address line 2 | street | ship address | shipping address | shipping address 1 | billing address | adresse |
    straße | strasse | indirizzo | dirección | morada | endereço | adres | adresa | adress | 住所 | お届け先 | city | town |
    ort | stadt | ville | città | ciudad | cidade | plaats | stad | miasto | město | şehir | 市 | zip | zip code |
    postcode | postal code | plz | postleitzahl | code postal | cap | código postal | kod pocztowy | psč | postnummer |
    posta kodu | 郵便番号 | state | county | province | region | country | land | pays | paese | país | kraj | země | ülke |
    国 | order date | ordered on | date ordered | date of order | purchase date | sale date | created at | paid at |
    bestelldatum | bestellt am | auftragsdatum | kaufdatum | date de commande | data ordine | data dell ordine |
    fecha de pedido | fecha del pedido | data do pedido | besteldatum | orderdatum | data zamówienia |
    datum objednávky | beställningsdatum | sipariş tarihi | 注文日 | 受注日 | 購入日 | price | unit price | item price |
    lineitem price | amount | total | subtotal | order total | preis | einzelpreis | gesamtpreis | betrag | prix |
    montant | prezzo | importo | precio | importe | preço | valor | prijs | bedrag | cena | kwota | částka | pris |
    belopp | fiyat | tutar | 価格 | 金額 | 単価 | currency | währung | devise | valuta | moneda | moeda | waluta | měna |
    para birimi | status | order status | payment status | paid | bezahlt | shipping | shipping method | shipping cost |
    versand | versandart | livraison | spedizione | envío | envio | verzending | wysyłka | doprava | frakt | kargo |
    発送方法 | tracking | tracking number | sendungsnummer | weight | gewicht | poids | peso | waga | váha | vikt | 重量 |
    vat | tax | mwst | tva | iva | btw | discount | coupon | payment | payment method | zahlungsart | url | link |
    barcode | ean | gtin | asin
"""  # fmt: skip


def fold_heading(name: str) -> str:
    """A heading as it is looked up.

    >>> fold_heading("  Ring-Größe: "), fold_heading("ORDER_NO.")
    ('ring grösse', 'order no')
    """
    # Full-width letters and ligatures become plain ones; casefold turns ß into ss on both sides.
    plain = unicodedata.normalize("NFKC", name)
    spaced = re.sub(r"[\s_.:*()\[\]/\\'’|°º-]+", " ", plain)
    return spaced.strip(" #").strip().casefold().replace("ß", "ss") or ("#" if "#" in plain else "")


def _read(table: Mapping[str, str]) -> dict[str, tuple[str, ...]]:
    return {
        code: tuple(part.strip() for part in text.split("|") if part.strip()) for code, text in table.items()
    }


def _folded() -> dict[str, tuple[str, float, int]]:
    """Heading -> field, how sure it is, and how far down it stands in its field's list."""
    found: dict[str, tuple[str, float, int]] = {}
    for table, sure in ((_VAGUE, VAGUE), (_SURE, SURE)):
        for code, headings in _read(table).items():
            for rank, heading in enumerate(headings):
                found[fold_heading(heading)] = (code, sure, rank)
    return found


HEADINGS: Mapping[str, tuple[str, float, int]] = MappingProxyType(_folded())
KEPT: frozenset[str] = frozenset(fold_heading(part) for part in _KEPT.split("|") if part.strip())
