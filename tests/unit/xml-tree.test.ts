import { expect } from 'chai';
import { BrokenXml, childOf, ownText, readXmlTree } from '../../src/core/xml/xml-tree.ts';

describe('a document of elements', () => {
  it('has its attributes, its children in their order, and what stands between its tags as it was written', () => {
    const root = readXmlTree('<a id="7"> one <b>two</b><![CDATA[<3>]]><c/>&lt;4&gt;</a>');
    expect(root.attributes).to.deep.equal({ id: '7' });
    expect(root.children.map((child) => (typeof child === 'string' ? child : child.name))).to.deep.equal([
      ' one ',
      'b',
      '<3>',
      'c',
      '<4>',
    ]);
    expect(root.inner).to.equal(' one <b>two</b><![CDATA[<3>]]><c/>&lt;4&gt;');
    expect(childOf(root, 'b')!.inner).to.equal('two');
    expect(childOf(root, 'c')!.inner).to.equal('');
    expect(ownText(root)).to.equal('one <3><4>');
  });
  it('may be written as everybody writes it: bare ampersands, references of HTML, control characters, blank lines before the start', () => {
    const text = (inner: string) => ownText(readXmlTree(`\n\n<?xml version="1.0"?>\r\n<a>${inner}</a>`));
    expect(text('R&D & sons')).to.equal('R&D & sons');
    expect(text('caf&eacute;&nbsp;&hellip; &nosuch; &#233;&#xE9;')).to.equal('café\u00a0… &nosuch; éé');
    expect(text('&#0;&#xFFFE;&#99999999;')).to.equal('&#0;&#xFFFE;&#99999999;');
    expect(text('a\u0000b\u000bc]]>d')).to.equal('abc]]>d');
    expect(text('<![CDATA[R&D &amp; <b>]]>')).to.equal('R&D &amp; <b>');
    expect(text('one\r\ntwo\rthree')).to.equal('one\ntwo\nthree');
    expect(readXmlTree('<a b="R&D &eacute;"/>').attributes.b).to.equal('R&D é');
  });
  it('is refused where it is no XML, with its line', () => {
    const line = (text: string) => {
      try {
        readXmlTree(text);
      } catch (error) {
        if (error instanceof BrokenXml) return error.line;
        throw error;
      }
      return null;
    };
    expect(line('<a>\n<b></a>')).to.equal(2);
    expect(line('<a b=1/>')).to.equal(1);
    expect(line('<a b="1" b="2"/>')).to.equal(1);
    expect(line('<a/><b/>')).to.equal(1);
    expect(line('no XML at all')).to.equal(1);
    expect(line('')).to.equal(1);
  });
});
